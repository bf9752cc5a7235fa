import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type PieceView, type Recipe } from "./client";
import { takeIn } from "./pieces";

const KEY = ["recipes"] as const;

/** The recipes that are always there and those that were kept; with a piece, which of them fit it. */
export function useRecipes(pieceId: string) {
  return useQuery({
    queryKey: [...KEY, pieceId],
    queryFn: () => answered<Recipe[]>(api.GET("/api/recipes", { params: { query: { piece_id: pieceId } } })),
  });
}

/** All recipes, whatever they are laid on. */
export function useAllRecipes() {
  return useQuery({ queryKey: [...KEY, "all"], queryFn: () => answered<Recipe[]>(api.GET("/api/recipes")) });
}

/** Make a piece by a recipe. */
export const layRecipe = (pieceId: string, base: number, key: string) =>
  answered<PieceView>(api.POST("/api/pieces/{piece_id}/recipe", { params: { path: { piece_id: pieceId } }, body: { base, key } }));

/** Keep the settings of a piece, bring a recipe from a file, forget one, and lay one on a piece. */
export function useRecipeWork(pieceId: string) {
  const client = useQueryClient();
  const refetch = () => client.invalidateQueries({ queryKey: KEY });
  const keep = useMutation({
    mutationFn: (name: string) => answered<Recipe>(api.POST("/api/recipes", { body: { piece_id: pieceId, name } })),
    onSuccess: refetch,
  });
  const bring = useMutation({
    mutationFn: async (file: File) => answered<Recipe>(api.POST("/api/recipe-files", { body: recipeIn(await file.text(), file.name) })),
    onSuccess: refetch,
  });
  const forget = useMutation({
    mutationFn: async (key: string) => {
      const { error } = await api.DELETE("/api/recipes/{key}", { params: { path: { key } } });
      if (error) throw new Error("The recipe was forgotten already.");
    },
    onSettled: refetch,
  });
  const follow = useMutation({
    scope: { id: `edit-${pieceId}` },
    mutationFn: ({ base, key }: { base: number; key: string }) => layRecipe(pieceId, base, key),
    onSuccess: (piece) => takeIn(client, piece),
  });
  return { keep, bring, forget, follow };
}

function recipeIn(text: string, name: string): Record<string, never> {
  try {
    return JSON.parse(text) as Record<string, never>;
  } catch {
    throw new Error(`${name} is no recipe; a JSON file that Nebrel wrote of one would be accepted.`);
  }
}
