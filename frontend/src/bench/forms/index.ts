import type { Form } from "../../api/client";
import { Arc } from "./arc";
import { Dome } from "./dome";
import { fieldsOf, type FormWords } from "./form";
import { Globe } from "./globe";
import { Side } from "./side";

export type FormName = Form["kind"] | "disc";

/** In the order of the menu. A disc is a panel with a round edge. */
export const FORMS: Record<FormName, FormWords> = {
  panel: { name: "Panel", purpose: "Flat.", said: "panel, flat", laid: { form: "panel", edge: "rectangle" } },
  disc: { name: "Disc", purpose: "A flat round, as wide as the shorter side.", laid: { form: "panel", edge: "round" } },
  arc: {
    name: "Arc",
    purpose: "Bent about an upright axis; the width spans the angle.",
    laid: { form: "arc", edge: "rectangle" },
    Fields: fieldsOf<"arc">(Arc),
  },
  tube: {
    name: "Tube",
    purpose: "Once around; the bare surface measures the width of the picture.",
    laid: { form: "tube", edge: "rectangle" },
    Fields: fieldsOf<"tube">(Side),
  },
  globe: {
    name: "Globe",
    purpose: "Once around a sphere, with an opening below.",
    laid: { form: "globe", edge: "rectangle" },
    Fields: fieldsOf<"globe">(Globe),
  },
  dome: { name: "Dome", purpose: "A cap of a sphere.", laid: { form: "dome", edge: "rectangle" }, Fields: fieldsOf<"dome">(Dome) },
};
