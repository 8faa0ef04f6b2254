import type { Form } from "../../api/client";
import { NumberField } from "../../shared/NumberField";
import type { FieldsProps } from "./form";
import { Side } from "./side";

/** The numbers of a dome. */
export function Dome({ form, set }: FieldsProps<Extract<Form, { kind: "dome" }>>) {
  return (
    <>
      <NumberField
        label="Bend"
        unit="°"
        value={form.bend}
        range={[1, 340]}
        step={1}
        help="The angle that the width spans."
        onChange={(bend, resting) => set({ bend }, "bend", resting)}
      />
      {"side" in form && <Side form={form} set={set} />}
    </>
  );
}
