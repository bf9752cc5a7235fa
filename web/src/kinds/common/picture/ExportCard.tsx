import { PictureFileCard } from "../PictureFileCard";

/** The prepared picture as a file, for use elsewhere. */
export function ExportCard(props: { pieceId: string; revision: number }) {
  return (
    <PictureFileCard
      {...props}
      kind="picture"
      title="Prepared picture as a file"
      action="Save the picture"
      words="16 bit, with the resolution that makes it true size."
    />
  );
}
