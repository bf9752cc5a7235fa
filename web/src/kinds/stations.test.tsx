// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../testing/server";
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { BuildReport, LithophaneDocument, OutlineDocument, OutlinesView, PanelDocument, TracedDocument } from "../api/client";
import { useBenchStore } from "../state/benchStore";
import { useOutlineStore } from "../state/outlineStore";
import { useShowing } from "../testing/page";
import { begun, drag, editing, keep, kept, otherwise, part, pieceOf, show, type, typedIn } from "../testing/stations";
import { patchAt } from "./common/fields/patchAt";
import { WeightCard } from "./common/proof/WeightCard";
import { ColourCard } from "./lithophane/ColourCard";
import { LampCard } from "./lithophane/LampCard";
import { LithophaneBody } from "./lithophane/LithophaneBody";
import { MaterialCard } from "./lithophane/MaterialCard";
import { ThicknessCard } from "./lithophane/ThicknessCard";
import { OutlineStation } from "./outline/OutlineStation";
import { ShapeStation } from "./outline/shape/ShapeStation";
import { BodyStation } from "./panel/body/BodyStation";
import { HeightStation } from "./panel/height/HeightStation";

type Data = Record<string, unknown>;

const VIEW = {
  width_mm: 60,
  box: [5, 5, 45, 35],
  nodes: 12,
  max_deviation_mm: 0.0123,
  layers: [
    { name: "Paper", ground: true },
    { name: "Leaf", ground: false },
    { name: "Veins", ground: false },
  ],
  curves: [
    { number: 0, layer: 1, closed: true, area_mm2: 420, nodes: [[10, 10], [20, 30], [30, 10]] },
    { number: 1, layer: 2, closed: true, area_mm2: 3.2, nodes: [[12, 12], [14, 14]] },
  ],
} as unknown as OutlinesView;

beforeEach(() => {
  freshServer();
  useBenchStore.setState({ unit: "mm", draft: null });
  useShowing.setState({}, true);
  on("GET /api/materials", [
    { id: 1, name: "White filament", attenuation_per_mm: 1.05, surface_loss: 0.12, cast: "#fff6e8", measured: false, spread_mm: 0 },
    { id: 2, name: "Porcelain", attenuation_per_mm: 0.7, surface_loss: 0.1, cast: "#ffffff", measured: true, spread_mm: 0.4 },
  ]);
  on("POST /api/pieces/p1/steps", { table: [{ tone: 0, mm: 0, share: 0.25 }, { tone: 1, mm: 2, share: 0.75 }], found: [] });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  drag.mockReset();
});

const shared = (kind: string, document: Data) => ({ piece: pieceOf(kind, document), pieceId: "p1", revision: 1, editing });
function panel(change: Data = {}) {
  const document = begun("PanelDocument", change);
  return { ...shared("panel", document), document: document as unknown as PanelDocument };
}
function lithophane(change: Data = {}) {
  const document = begun("LithophaneDocument", change);
  return { ...shared("lithophane", document), document: document as unknown as LithophaneDocument };
}
function outline(solid: string, change: Data = {}, more: Data = {}) {
  const document = { ...begun("TracedDocument", more), solid: part(solid, change) };
  return { ...shared("traced", document), document: document as unknown as TracedDocument & OutlineDocument, view: VIEW };
}

describe("every number of a station is kept at its place", () => {
  const STATIONS: [string, string, string, () => { document: unknown }, (props: never) => React.ReactNode, string[]][] = [
    ["a round panel with a frame", "panel", "PanelDocument", () => panel({ body: { shape: "rounded", frame: { on: true }, edge: { bevel_on: true, draft_on: true } } }), (props) => <BodyStation {...(props as ReturnType<typeof panel>)} />, ["body", "body.frame", "body.edge", "finish"]],
    ["a polygon on its outline", "panel", "PanelDocument", () => panel({ body: { shape: "polygon" } }), (props) => <BodyStation {...(props as ReturnType<typeof panel>)} />, ["body"]],
    ["heights held back", "panel", "PanelDocument", () => panel({ height: { rule: { kind: "compress" }, cut: { on: true }, draft: { on: true }, rounding: { on: true } } }), (props) => <HeightStation {...(props as ReturnType<typeof panel>)} />, ["height.rule", "height.cut", "height.draft", "height.rounding"]],
    ["an arc with rails and a clip", "lithophane", "LithophaneDocument", () => lithophane({ form: { kind: "arc" }, parts: { rails: { on: true }, clip: { on: true } } }), (props) => <LithophaneBody {...(props as ReturnType<typeof lithophane>)} />, ["form", "parts.rim", "parts.rails", "parts.clip", "finish"]],
    ["a lantern with foot, bottom and lid", "lithophane", "LithophaneDocument", () => lithophane({ form: { kind: "cone" }, parts: { foot: { on: true }, bottom: { on: true }, lid: { on: true }, hole: { on: true } } }), (props) => <LithophaneBody {...(props as ReturnType<typeof lithophane>)} />, ["form", "parts.foot", "parts.bottom", "parts.lid"]],
    ["thickness true to light", "lithophane", "LithophaneDocument", () => lithophane(), (props) => <><ThicknessCard {...(props as ReturnType<typeof lithophane>)} /><MaterialCard {...(props as ReturnType<typeof lithophane>)} /></>, ["glow"]],
    ["colour layers", "lithophane", "LithophaneDocument", () => lithophane({ colours: { on: true } }), (props) => <ColourCard {...(props as ReturnType<typeof lithophane>)} />, ["colours"]],
    ["lamp and room", "lithophane", "LithophaneDocument", () => lithophane(), (props) => <LampCard {...(props as ReturnType<typeof lithophane>)} />, ["lamp"]],
    ["a bevelled band", "traced", "TracedDocument", () => outline("RaisedPart", { edge: "bevel", shell: "inside", inlay: true, base: { ...part("OutlineBase"), kind: "ellipse" } }), (props) => <ShapeStation {...(props as ReturnType<typeof outline>)} />, ["solid", "solid.base"]],
    ["a cutter with an imprint", "traced", "TracedDocument", () => outline("CutterPart", { imprint: true }), (props) => <ShapeStation {...(props as ReturnType<typeof outline>)} />, ["solid"]],
    ["a stamp with a knob", "traced", "TracedDocument", () => outline("StampPart", { grip: "knob" }), (props) => <ShapeStation {...(props as ReturnType<typeof outline>)} />, ["solid", "solid.plate"]],
  ];
  test.each(STATIONS)("%s", (_, kind, root, props, draw, parts) => {
    const given = props();
    show(draw(given as never), kind);
    let typed = 0;
    for (const at of parts) {
      for (const { field, place } of typedIn(root, given.document as Data, at)) {
        const fields = [field.label, "Thickness", "Once round", "Thickness may be off by", "Surface may be off by"]
          .flatMap((label) => screen.queryAllByLabelText(label, { exact: true }))
          .filter((each) => each.getAttribute("inputmode") === "decimal");
        const value = place.split(".").reduce<unknown>((held, name) => (held as Data)[name], given.document) as number;
        const { text, number } = otherwise(field, value);
        for (const each of fields) {
          fireEvent.change(each, { target: { value: text } });
          fireEvent.keyDown(each, { key: "Enter" });
        }
        expect(keep.mock.calls.map(([, change]) => change), `${place}, ${text}`).toContainEqual(patchAt(place, number));
        typed += 1;
      }
    }
    expect(typed).toBeGreaterThan(1);
  });
});

describe("a panel", () => {
  test("has the fields of its outline, and says what follows the picture", () => {
    show(<BodyStation {...panel({ body: { shape: "outline" } })} />, "panel");
    expect(screen.getByLabelText("Base around it")).toBeTruthy();
    expect(screen.getByText(/follows what is not blank/)).toBeTruthy();
    expect(screen.queryByLabelText("Corner radius")).toBeNull();
  });

  test("without a back has no backing", () => {
    show(<BodyStation {...panel({ body: { back: "none" } })} />, "panel");
    expect(screen.queryByLabelText("Backing")).toBeNull();
    expect(screen.getByText(/The surface alone/)).toBeTruthy();
  });

  test("gets holes and slots that are switched, changed and removed", () => {
    show(<BodyStation {...panel()} />, "panel");
    fireEvent.click(screen.getByRole("button", { name: "Add a hole or slot" }));
    fireEvent.click(screen.getByRole("button", { name: "Keyhole" }));
    expect(kept()).toMatchObject(["Keyhole added", { body: { openings: [{ kind: "keyhole", on: true, head_mm: 8 }] } }]);
    const openings = [part("HangingHolePart"), part("StandSlotPart")];
    show(<BodyStation {...panel({ body: { openings } })} />, "panel");
    type("Lean", "20");
    expect(kept()).toMatchObject(["Stand slot, lean 20°", { body: { openings: [openings[0], { kind: "stand-slot", lean_deg: 20 }] } }]);
    fireEvent.click(screen.getByLabelText("Hanging hole on"));
    expect(kept()).toMatchObject(["Hanging hole, off", { body: { openings: [{ on: false }, openings[1]] } }]);
    fireEvent.click(screen.getByRole("button", { name: "Remove hanging hole" }));
    expect(kept()).toEqual(["Hanging hole removed", { body: { openings: [openings[1]] } }]);
  });

  test("follows tone by the rule that is chosen, and says what it means", () => {
    show(<HeightStation {...panel()} />, "panel");
    expect(screen.getByText(/evenly with tone/)).toBeTruthy();
    fireEvent.click(screen.getByRole("radio", { name: "Steps" }));
    expect(kept()).toEqual(["How does height follow tone? steps", { height: { rule: { kind: "steps" } } }]);
    fireEvent.click(screen.getByRole("radio", { name: "Dark" }));
    expect(kept()).toEqual(["Which tones stand tall? dark", { height: { rule: { tall: "dark" } } }]);
  });

  test("in steps has a table and no curve of tones", async () => {
    show(<HeightStation {...panel({ height: { rule: { kind: "steps" } } })} />, "panel");
    expect(screen.queryByLabelText("Relief height")).toBeNull();
    await waitFor(() => expect(screen.getByText("75 %")).toBeTruthy());
    type("Height of step 2", "2.5");
    expect(kept()).toEqual(["Step 2 2.5 mm", { height: { rule: { steps: [{ tone: 0, mm: 0 }, { tone: 1, mm: 2.5 }] } } }]);
    type("Height of step 2", "900");
    expect(screen.getByText("0 mm to 200 mm would be accepted.")).toBeTruthy();
    expect(askedOf("POST /api/pieces/p1/steps").length).toBeGreaterThan(0);
  });

  test("offers to keep steep steps only where something is smoothed", () => {
    show(<HeightStation {...panel()} />, "panel");
    expect(screen.queryByLabelText("Keep steps taller than")).toBeNull();
    show(<HeightStation {...panel({ height: { smooth_mm: 0.4 } })} />, "panel");
    expect(screen.getByLabelText("Keep steps taller than")).toBeTruthy();
    show(<HeightStation {...panel({ height: { smooth_mm: 0.4, rule: { kind: "steps" } } })} />, "panel");
    expect(screen.getByText(/Terraces stay level/)).toBeTruthy();
  });
});

describe("a lithophane", () => {
  test("is bent over what is chosen; rolled up it is as long as a lantern", () => {
    show(<LithophaneBody {...lithophane()} />, "lithophane");
    fireEvent.change(screen.getByRole("combobox", { name: "Form" }), { target: { value: "cylinder" } });
    expect(kept()).toEqual(["Form: cylinder", { form: { kind: "cylinder", width_mm: 251.327 } }]);
    fireEvent.change(screen.getByRole("combobox", { name: "Form" }), { target: { value: "dome" } });
    expect(kept()).toEqual(["Form: dome", { form: { kind: "dome" } }]);
  });

  test("on a cylinder is told by how far it is across, too", () => {
    show(<LithophaneBody {...lithophane({ form: { kind: "cylinder", width_mm: 251.327 } })} />, "lithophane");
    expect(screen.getByLabelText("Once round")).toBeTruthy();
    type("Diameter", "100");
    expect(kept()).toEqual(["Diameter 100 mm", { form: { width_mm: 314.159 } }]);
  });

  test("has borders where its form has ends, and a name on them", () => {
    show(<LithophaneBody {...lithophane({ form: { kind: "heart" } })} />, "lithophane");
    expect(screen.queryByLabelText("Left")).toBeNull();
    fireEvent.click(screen.getByLabelText("Top"));
    expect(kept()).toEqual(["Top off", { parts: { rim: { top: false } } }]);
    type("Name on the border", "Fernhollow");
    expect(kept()).toEqual(["Name", { parts: { name: { on: true, text: "Fernhollow" } } }]);
    show(<LithophaneBody {...lithophane({ parts: { name: { on: true, text: "Fern" } } })} />, "lithophane");
    fireEvent.click(screen.getByRole("radio", { name: "Raised" }));
    expect(kept()).toEqual(["Letters raised", { parts: { name: { sunk: false } } }]);
  });

  test("has the parts that its form has room for", () => {
    show(<LithophaneBody {...lithophane()} />, "lithophane");
    expect(screen.getByLabelText("Slide rails on")).toBeTruthy();
    expect(screen.queryByLabelText("Lid seat on")).toBeNull();
    show(<LithophaneBody {...lithophane({ form: { kind: "sphere" } })} />, "lithophane");
    expect(screen.queryByLabelText("Slide rails on")).toBeNull();
    fireEvent.click(screen.getByLabelText("Lid seat on"));
    expect(kept()).toEqual(["Lid seat on", { parts: { lid: { on: true } } }]);
  });

  test("takes a copy of a material's values, and can go back to them", async () => {
    show(<MaterialCard {...lithophane()} />, "lithophane");
    await screen.findByText("Porcelain (measured)");
    fireEvent.change(screen.getByRole("combobox", { name: "Material" }), { target: { value: "Porcelain" } });
    expect(kept()).toEqual(["Material Porcelain", { glow: { material: { name: "Porcelain", attenuation_per_mm: 0.7, surface_loss: 0.1, cast: "#ffffff" }, spread_mm: 0.4 } }]);
    show(<MaterialCard {...lithophane({ glow: { material: { attenuation_per_mm: 2 } } })} />, "lithophane");
    fireEvent.click(await screen.findByRole("button", { name: "As in the table" }));
    expect(kept()).toMatchObject(["Material White filament", { glow: { material: { attenuation_per_mm: 1.05 } } }]);
    fireEvent.change(screen.getByLabelText("Colour of light behind it"), { target: { value: "#ffeedd" } });
    expect(kept()).toEqual(["Colour of light behind it #ffeedd", { glow: { material: { cast: "#ffeedd" } } }]);
  });

  test("has a strength only by the rule of light", () => {
    show(<ThicknessCard {...lithophane({ glow: { rule: "straight" } })} />, "lithophane");
    expect(screen.queryByLabelText(/Strength against/)).toBeNull();
    expect(screen.getByText(/middle tones come out too dark/)).toBeTruthy();
  });
});

describe("outlines", () => {
  test("have a height for every layer; paper stays down", () => {
    show(<ShapeStation {...outline("RaisedPart", { thickness_mm: 3 })} />, "traced");
    expect(screen.getByLabelText<HTMLInputElement>("Paper, paper").value).toBe("0 mm");
    type("Veins", "4.5");
    expect(kept()).toEqual(["Veins 4.5 mm", { solid: { heights_mm: [0, 3, 4.5] } }]);
  });

  test("are pressed in behind the edge, each layer by its own measure", () => {
    show(<ShapeStation {...outline("CutterPart", { imprint: true, setback_mm: 3 })} />, "traced");
    expect(screen.getByTestId("wall-thickness").textContent).toBe("1.80 mm");
    expect(screen.queryByLabelText(/Only one tone/)).toBeNull();
    show(<ShapeStation {...outline("CutterPart", { imprint: true })} view={{ ...VIEW, layers: VIEW.layers.slice(0, 2) }} />, "traced");
    expect(screen.getByText(/Only one tone is followed/)).toBeTruthy();
  });

  test("of a stamp always have a plate", () => {
    show(<ShapeStation {...outline("StampPart")} />, "traced");
    expect(screen.queryByRole("radio", { name: "None" })?.closest("[aria-label]")?.getAttribute("aria-label")).not.toBe("Plate");
    fireEvent.click(screen.getByRole("radio", { name: "Ellipse" }));
    expect(kept()).toEqual(["Plate ellipse", { solid: { plate: { kind: "ellipse" } } }]);
    fireEvent.click(screen.getByRole("radio", { name: "Bar" }));
    expect(kept()).toEqual(["Behind the plate bar", { solid: { grip: "bar" } }]);
  });

  test("are followed by one edge, several tones or middles of lines", () => {
    show(<OutlineStation {...outline("RaisedPart")} />, "traced");
    expect(screen.getByTestId("outline-count").textContent).toBe("2");
    fireEvent.click(screen.getByRole("radio", { name: "Several tones" }));
    expect(kept()).toEqual(["What is followed? several tones", { trace: { by: "tones" } }]);
    fireEvent.click(screen.getByLabelText("Say it in mm"));
    expect(kept()).toEqual(["Distance from the edge in mm", { trace: { tolerance_mm: 0.05 } }]);
    fireEvent.click(screen.getByLabelText("Find the tone at the edge"));
    expect(kept()).toEqual(["Tone at the edge set", { trace: { level: 0.5 } }]);
    show(<OutlineStation {...outline("RaisedPart", {}, { trace: { by: "tones" } })} />, "traced");
    expect(screen.queryByText("What is drawn?")).toBeNull();
    type("Tones", "4");
    expect(kept()).toEqual(["Tones 4", { trace: { tones: 4 } }]);
  });

  test("are as wide as is typed, although the document holds the whole picture's width", () => {
    show(<OutlineStation {...outline("RaisedPart", {}, { width_mm: 60 })} />, "traced");
    type("Width of the outlines", "80");
    expect(kept()).toEqual(["Outlines 80 mm wide", { width_mm: 120 }]);
    type("Width of the outlines", "2900");
    expect(kept()).toEqual(["Outlines 2900 mm wide", { width_mm: 3000 }]);
  });

  test("are mended by steps on those that are chosen", () => {
    useOutlineStore.setState({ chosen: [0], mode: "outlines", pressed: [0.3, 0.4] });
    show(<OutlineStation {...outline("RaisedPart")} />, "traced");
    fireEvent.click(screen.getAllByRole("button", { name: "Grow or shrink" })[0] as HTMLElement);
    expect(kept()).toMatchObject(["Grow or shrink", { mend: [{ kind: "offset", on: true, by_mm: 1, join: "round", chosen: [[20 / 60, 0.5]] }] }]);
    const mend = [part("SpreadMend", { id: "m1", along: "ring" }), part("MoveMend", { id: "m2" })];
    show(<OutlineStation {...outline("RaisedPart", {}, { mend })} />, "traced");
    type("How many", "6");
    expect(kept()).toMatchObject(["Repeat, how many 6", { mend: [{ id: "m1", count: 6 }, { id: "m2" }] }]);
    fireEvent.click(screen.getAllByRole("button", { name: "Where I pressed last" })[0] as HTMLElement);
    expect(kept()).toMatchObject(["Repeat, middle of the ring", { mend: [{ about: [0.3, 0.4] }, {}] }]);
    fireEvent.click(screen.getByLabelText("About a picked place"));
    expect(kept()).toMatchObject(["Move, turn, scale, about", { mend: [{}, { about: [0.5, 0.5] }] }]);
    fireEvent.click(screen.getByRole("button", { name: "Remove: Repeat" }));
    expect(kept()).toMatchObject(["Repeat removed", { mend: [{ id: "m2" }] }]);
  });
});

test("weight and cost follow density and price", () => {
  const report = { volume_mm3: 50_000 } as BuildReport;
  show(<WeightCard {...panel()} report={report} />, "panel");
  expect(screen.getByTestId("weight").textContent).toContain("62.0 g");
  expect(screen.getByTestId("weight").textContent).toContain("1.36");
  type("Density, g/cm³", "1");
  expect(kept()).toEqual(["Density, g/cm³ 1", { maker: { material: { density_g_cm3: 1 } } }]);
  show(<WeightCard {...panel()} report={undefined} />, "panel");
  expect(screen.getByText("Told once the piece is built.")).toBeTruthy();
});
