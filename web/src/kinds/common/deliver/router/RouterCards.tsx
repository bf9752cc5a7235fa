import { useState, type ReactNode } from "react";
import { WorkCard } from "../../../../ui/WorkCard";
import { ChoiceHint, PartCard } from "../../fields/PartCard";
import { PartField, PartFields } from "../../fields/PartField";
import type { AnyStationProps } from "../../stationProps";
import { BitsCard } from "./BitsCard";
import { CarveCard } from "./CarveCard";
import { ProgramsFields } from "./ProgramsFields";

interface Props extends AnyStationProps {
  /** Whether it is made of outlines, which may be sunk. */
  sinks: boolean;
}

/** What counts for surfaces only. */
const SURFACE_ONLY = ["scallop_mm", "direction", "direction_deg", "steep", "pattern", "allowance_mm"];

/** Everything that a router needs: stock, bits, how passes go, the machine, its programs. */
export function RouterCards({ sinks, ...props }: Props) {
  const { document, editing } = props;
  const work = { document, editing };
  const sunk = sinks && document.carving.outlines.way !== "raised";
  return (
    <>
      <CarveCard {...props} />
      {sinks && (
        <WorkCard title="Outlines">
          <PartField {...work} at="carving.outlines.way" />
          <ChoiceHint document={document} at="carving.outlines.way" />
          <PartField {...work} at="carving.outlines.depth_mm" />
        </WorkCard>
      )}
      <WorkCard title="Stock">
        <div className="field-pairs">
          <PartFields {...work} at="carving.stock" />
        </div>
      </WorkCard>
      <BitsCard {...props} />
      <Folded title="Passes" opened>
        <PartFields {...work} at="carving.passes" without={sunk ? SURFACE_ONLY : []} />
      </Folded>
      {!sunk && (
        <PartCard {...work} at="carving.cut_out" hint="off">
          <div className="field-pairs">
            <PartFields {...work} at="carving.cut_out" />
          </div>
        </PartCard>
      )}
      <Folded title="Router">
        <PartFields {...work} at="carving.router" />
      </Folded>
      <Folded title="Programs" bare>
        <ProgramsFields {...work} />
      </Folded>
    </>
  );
}

/** A card that is opened by a press: what is set once. */
function Folded({ title, opened = false, bare = false, children }: { title: string; opened?: boolean; bare?: boolean; children: ReactNode }) {
  const [open, setOpen] = useState(opened);
  return (
    <WorkCard title={title}>
      <button type="button" className="btn btn-link btn-sm p-0 text-start" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Fold" : "Show and change"}
      </button>
      {open && (bare ? children : <div className="field-pairs">{children}</div>)}
    </WorkCard>
  );
}
