interface Props {
  /** The kind of piece that is at hand; without one the handbook opens at its beginning. */
  kind?: string;
}

/** Kinds that share a page of the handbook. */
const SHARED: Record<string, string> = { traced: "outline", drawn: "outline" };

/** The handbook, in a page of its own, where it tells of what is at hand. */
export function HelpLink({ kind }: Props) {
  const page = kind === undefined ? "index" : `kinds/${SHARED[kind] ?? kind}`;
  return (
    <a className="icon-button" href={`/help/${page}.html`} target="_blank" rel="noopener" aria-label="Help" title="Help: the handbook">
      <i className="bi bi-book" aria-hidden="true" />
    </a>
  );
}
