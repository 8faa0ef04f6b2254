import type { ComponentType } from "react";
import type { Figures, Form } from "../../api/client";

export interface FieldsProps<F = Form> {
  form: F;
  figures: Figures | undefined;
  set: (part: Partial<F>, label: string, resting?: boolean) => void;
}

/** All that the screen knows of one form; a file per form that has numbers. */
export interface FormWords {
  name: string;
  purpose: string;
  /** What the trail calls it, where that is not its kind. */
  said?: string;
  /** The form of the recipe, and the edge that goes with it. */
  laid: { form: Form["kind"]; edge: "rectangle" | "round" };
  Fields?: ComponentType<FieldsProps>;
}

type Made<K extends Form["kind"]> = Extract<Form, { kind: K }>;

/** The fields of one form, for a table of all. */
export const fieldsOf = <K extends Form["kind"]>(Fields: ComponentType<FieldsProps<Made<K>>>) => Fields as unknown as ComponentType<FieldsProps>;
