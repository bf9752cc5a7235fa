import { useState } from "react";
import Form from "react-bootstrap/Form";
import type { PieceView, Recipe } from "../api/client";
import { useRecipes, useRecipeWork } from "../api/recipes";
import { Button } from "../ui/Button";

/** Recipes: the settings of other pieces to be laid on this one, and its own to be kept. */
export function RecipeBook({ piece, onLaid }: { piece: PieceView; onLaid: () => void }) {
  const recipes = useRecipes(piece.id);
  const { keep, bring, forget, follow } = useRecipeWork(piece.id);
  const [typed, setTyped] = useState("");
  const refusal = keep.error ?? bring.error ?? forget.error ?? follow.error ?? recipes.error;
  const keepTyped = () => {
    const name = typed.trim();
    if (name) keep.mutate(name, { onSuccess: () => setTyped("") });
  };
  const fitting = recipes.data?.filter(({ fits }) => fits) ?? [];
  return (
    <section aria-labelledby="recipes-title">
      <div className="recipes-head">
        <h2 id="recipes-title">Recipes</h2>
        <Form.Control
          size="sm"
          type="text"
          className="recipes-name"
          placeholder="Keep this piece's settings as …"
          aria-label="Name of the recipe"
          value={typed}
          maxLength={80}
          onChange={(event) => setTyped(event.currentTarget.value)}
          onKeyDown={(event) => event.key === "Enter" && keepTyped()}
        />
        <Button size="sm" disabled={!typed.trim() || keep.isPending} onClick={keepTyped}>
          Keep
        </Button>
        <label className="btn btn-sm btn-outline-secondary mb-0">
          Bring one from a file
          <input
            type="file"
            accept=".json,application/json"
            className="visually-hidden"
            aria-label="Recipe file"
            onChange={(event) => {
              const file = event.currentTarget.files?.[0];
              event.currentTarget.value = "";
              if (file) bring.mutate(file);
            }}
          />
        </label>
      </div>
      {refusal && (
        <p className="measure-refusal px-4" role="alert">
          {refusal.message}
        </p>
      )}
      <div className="recipes-grid">
        {fitting.map((recipe) => (
          <RecipeCard
            key={recipe.key}
            recipe={recipe}
            busy={follow.isPending}
            onLay={() => follow.mutate({ base: piece.revision, key: recipe.key }, { onSuccess: onLaid })}
            onForget={recipe.ready ? null : () => forget.mutate(recipe.key)}
          />
        ))}
      </div>
    </section>
  );
}

function RecipeCard({ recipe, busy, onLay, onForget }: { recipe: Recipe; busy: boolean; onLay: () => void; onForget: (() => void) | null }) {
  return (
    <article className="recipe-card">
      <button type="button" disabled={busy} onClick={onLay} title={`Lay the recipe ${recipe.name} on it`}>
        <img src={`/api/recipes/${recipe.key}/thumbnail.png`} alt="" className="choose-picture" loading="lazy" />
        <span className="choose-title">{recipe.name}</span>
        <span className="quiet-label">{recipe.makes}</span>
      </button>
      <div className="recipe-tools">
        <a className="icon-button" href={`/api/recipes/${recipe.key}/file`} download={`${recipe.name}.json`} aria-label={`Save the recipe ${recipe.name} as a file`} title="Save as a file">
          <i className="bi bi-download" aria-hidden="true" />
        </a>
        {onForget && (
          <button type="button" className="icon-button" onClick={onForget} aria-label={`Forget the recipe ${recipe.name}`} title="Forget it">
            <i className="bi bi-x-lg" aria-hidden="true" />
          </button>
        )}
      </div>
    </article>
  );
}
