import { api, type Form, take } from "../../api/client";
import { LengthField } from "../../shared/LengthField";
import { showError } from "../../shared/notices";
import { NumberField } from "../../shared/NumberField";
import type { FieldsProps } from "./form";
import { Side } from "./side";

/** The numbers of an arc: its angle, or the radius that makes it. */
export function Arc({ form, figures, set }: FieldsProps<Extract<Form, { kind: "arc" }>>) {
  const { wide_mm = 0, bare_radius_mm } = figures?.form ?? {};
  const byRadius = (radius_mm: number, resting: boolean) =>
    take(api.POST("/api/bend", { body: { wide_mm, radius_mm } })).then((bend) => set({ bend }, "bend", resting), showError);
  return (
    <>
      <NumberField
        label="Bend"
        unit="°"
        value={form.bend}
        range={[1, 350]}
        step={1}
        help="The angle that the width spans."
        onChange={(bend, resting) => set({ bend }, "bend", resting)}
      />
      {bare_radius_mm != null && (
        <LengthField
          label="Bare radius"
          value={{ mm: bare_radius_mm }}
          range={[1, 2000]}
          step={1}
          help="Type it instead of the bend."
          onChange={(radius, resting) => void byRadius(radius.mm, resting)}
        />
      )}
      <Side form={form} set={set} />
    </>
  );
}
