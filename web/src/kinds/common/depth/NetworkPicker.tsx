import { useModels } from "../../../api/depthSources";
import type { TakenModel } from "../../../api/client";
import { Button } from "../../../ui/Button";
import type { DepthHome } from "./depthHome";

interface Props {
  depth: Pick<DepthHome["depth"], "name">;
  onTake: (taken: TakenModel) => void;
}

/** The networks in the folder of models: which one says how near everything is. */
export function NetworkPicker({ depth, onTake }: Props) {
  const { models, take } = useModels(true);
  return (
    <fieldset className="filaments">
      <legend>Networks in the folder of models</legend>
      {models.map((model) => (
        <div key={model.name} className="network">
          <span>
            {model.name}
            <span className="quiet-label">{` · ${(model.size_bytes / 2 ** 20).toFixed(1)} MiB`}</span>
          </span>
          <Button
            size="sm"
            variant="outline-secondary"
            aria-label={`Take ${model.name}`}
            disabled={!model.card || take.isPending}
            onClick={() => take.mutate(model.name, { onSuccess: onTake })}
          >
            {depth.name === model.name ? "Taken" : "Take"}
          </Button>
          {model.problem && <p role="alert">{model.problem}</p>}
        </div>
      ))}
      {models.length === 0 && <p className="quiet-label">There is none. Put an ONNX file into “models” in the data folder, with a card of the same name beside it.</p>}
      {take.error && <p role="alert">{take.error.message}</p>}
    </fieldset>
  );
}
