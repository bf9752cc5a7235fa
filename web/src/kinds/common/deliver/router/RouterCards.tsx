import { useState, type ReactNode } from "react";
import { WorkCard } from "../../../../ui/WorkCard";
import { PartCard } from "../../fields/PartCard";
import { PartFields } from "../../fields/PartField";
import type { AnyStationProps } from "../../stationProps";
import { BitsCard } from "./BitsCard";
import { CarveCard } from "./CarveCard";

/** Everything that a router needs: stock, bits, how passes go, the machine, its programs. */
export function RouterCards(props: AnyStationProps) {
  const { document, editing } = props;
  const work = { document, editing };
  return (
    <>
      <CarveCard {...props} />
      <WorkCard title="Stock">
        <div className="field-pairs">
          <PartFields {...work} at="carving.stock" />
        </div>
      </WorkCard>
      <BitsCard {...props} />
      <Folded title="Passes" opened>
        <PartFields {...work} at="carving.passes" />
      </Folded>
      <PartCard {...work} at="carving.cut_out" hint="off">
        <div className="field-pairs">
          <PartFields {...work} at="carving.cut_out" />
        </div>
      </PartCard>
      <Folded title="Router">
        <PartFields {...work} at="carving.router" />
      </Folded>
      <Folded title="Programs">
        <PartFields {...work} at="carving.post" />
      </Folded>
    </>
  );
}

/** A card that is opened by a press: what is set once. */
function Folded({ title, opened = false, children }: { title: string; opened?: boolean; children: ReactNode }) {
  const [open, setOpen] = useState(opened);
  return (
    <WorkCard title={title}>
      <button type="button" className="btn btn-link btn-sm p-0 text-start" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Fold" : "Show and change"}
      </button>
      {open && <div className="field-pairs">{children}</div>}
    </WorkCard>
  );
}
