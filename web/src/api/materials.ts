import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type TranslucentMaterial, type Material, type MaterialEdit, type MaterialFit, type Readings } from "./client";

const KEY = ["materials"] as const;

/** The materials of lithophanes, and what can be done to them. */
export function useMaterials() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: KEY });
  const materials = useQuery({ queryKey: KEY, queryFn: () => answered<Material[]>(api.GET("/api/materials")) });
  const add = useMutation({
    mutationFn: (material: MaterialEdit) => answered<Material>(api.POST("/api/materials", { body: material })),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ id, ...material }: Material) =>
      answered<Material>(api.PUT("/api/materials/{material_id}", { params: { path: { material_id: id } }, body: material })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/materials/{material_id}", { params: { path: { material_id: id } } }),
    onSuccess,
  });
  return { materials: materials.data ?? [], add, change, drop };
}

/** Thicknesses of the steps of a wedge, mm. */
export function fetchWedge(steps: number): Promise<number[]> {
  return answered(api.GET("/api/wedge", { params: { query: { steps } } }));
}

/** What the simulated light box reads behind a wedge of a material. */
export function readLightBox(material: TranslucentMaterial, steps: number, seed: number): Promise<Readings> {
  return answered(api.POST("/api/light-box", { body: { material, steps, noise: 0.01, seed } }));
}

/** Readings from a CSV file, or from a photograph of a lit wedge. */
export function readFile(file: File, steps: number): Promise<Readings> {
  const body = new FormData();
  const table = /\.(csv|txt)$/i.test(file.name);
  body.append(table ? "readings" : "photograph", file, file.name);
  if (!table) body.append("steps", String(steps));
  const form = { body: body as never, bodySerializer: (data: unknown) => data as never };
  return answered(table ? api.POST("/api/wedge-readings", form) : api.POST("/api/wedge-photograph", form));
}

export function fitMaterial(readings: Readings): Promise<MaterialFit> {
  return answered(api.POST("/api/fit-material", { body: readings }));
}
