import type { ReactNode } from "react";
import { Choice } from "../../../../ui/Choice";
import { WorkCard } from "../../../../ui/WorkCard";
import { PartField } from "../../fields/PartField";
import type { AnyStationProps } from "../../stationProps";

interface Props extends Pick<AnyStationProps, "document" | "editing"> {
  /** What a router needs besides. */
  children: ReactNode;
}

/** The machine that the piece is for. */
export function MakerCard({ document, editing, children }: Props) {
  const { maker, carving } = document;
  return (
    <>
      <WorkCard title="Maker">
        <Choice
          label="The piece is for"
          value={carving.on ? "router" : "printer"}
          options={[
            { value: "printer", label: maker.name },
            { value: "router", label: carving.router.name },
          ]}
          onChange={(value) => editing.keep(value === "router" ? `For ${carving.router.name}` : `For ${maker.name}`, { carving: { on: value === "router" } })}
        />
        {!carving.on && (
          <>
            <PartField document={document} editing={editing} at="maker.line_width_mm" />
            <PartField document={document} editing={editing} at="maker.layer_mm" />
            <p className="quiet-label">
              {maker.name}, takes pieces up to {maker.bed_mm.join(" × ")} mm.
            </p>
          </>
        )}
      </WorkCard>
      {carving.on && children}
    </>
  );
}
