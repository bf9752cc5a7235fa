import Dropdown from "react-bootstrap/Dropdown";
import { useAllRecipes } from "../api/recipes";

interface Props {
  disabled: boolean;
  onChoose: (key: string, name: string) => void;
}

/** A recipe to be laid on all that are chosen. */
export function RecipeMenu({ disabled, onChoose }: Props) {
  const recipes = useAllRecipes();
  return (
    <Dropdown>
      <Dropdown.Toggle size="sm" variant="outline-secondary" disabled={disabled}>
        By a recipe
      </Dropdown.Toggle>
      <Dropdown.Menu className="recipe-menu">
        {recipes.data?.map(({ key, name, makes }) => (
          <Dropdown.Item key={key} as="button" type="button" onClick={() => onChoose(key, name)}>
            {name} <span className="quiet-label">{makes}</span>
          </Dropdown.Item>
        ))}
        {recipes.error && <Dropdown.ItemText>{recipes.error.message}</Dropdown.ItemText>}
      </Dropdown.Menu>
    </Dropdown>
  );
}
