import type { Form } from "../../api/client";
import { LengthField } from "../../shared/LengthField";
import type { FieldsProps } from "./form";
import { Side } from "./side";

/** The numbers of a globe. */
export function Globe({ form, set }: FieldsProps<Extract<Form, { kind: "globe" }>>) {
  return (
    <>
      <LengthField
        label="Opening"
        value={form.opening}
        range={[1, 200]}
        step={1}
        slider
        help="Diameter of the hole below, on the bare surface."
        onChange={(opening, resting) => set({ opening }, "opening", resting)}
      />
      {"side" in form && <Side form={form} set={set} />}
    </>
  );
}
