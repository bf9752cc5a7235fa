import { useLitFacts } from "../../api/lithophanes";
import { WorkCard } from "../../ui/WorkCard";

interface Props {
  pieceId: string;
  revision: number;
  /** The job that built this very revision, whose delivery holds the recipe as a file. */
  builtBy: string | undefined;
}

/** How to print a lithophane. */
export function RecipeCard({ pieceId, revision, builtBy }: Props) {
  const recipe = useLitFacts(pieceId, revision).data?.recipe;
  if (!recipe) return null;
  const rows = recipe.split("\n").flatMap((line) => {
    const [name, told] = line.split(/ {2,}/);
    return name && told ? [[name, told] as const] : [];
  });
  return (
    <WorkCard title="Print recipe">
      <dl className="facts" data-testid="recipe">
        {rows.map(([name, told]) => (
          <div key={name} style={{ display: "contents" }}>
            <dt>{name}</dt>
            <dd>{told}</dd>
          </div>
        ))}
      </dl>
      {builtBy ? (
        <a className="btn btn-sm btn-outline-secondary" href={`/api/jobs/${builtBy}/recipe.txt`} download>
          Save the recipe as text
        </a>
      ) : (
        <p className="quiet-label">Built, the piece brings it along as a text file.</p>
      )}
    </WorkCard>
  );
}
