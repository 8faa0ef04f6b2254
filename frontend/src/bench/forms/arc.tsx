import { useEffect, useRef, useState } from "react";
import { api, type Form, take } from "../../api/client";
import { LengthField } from "../../shared/LengthField";
import { showError } from "../../shared/notices";
import { NumberField } from "../../shared/NumberField";
import type { FieldsProps } from "./form";
import { Side } from "./side";

/** The numbers of an arc: its angle, or the radius that makes it. */
export function Arc({ form, figures, set }: FieldsProps<Extract<Form, { kind: "arc" }>>) {
  const { wide_mm = 0, bare_radius_mm } = figures?.form ?? {};
  // What was asked for stands in the field until the piece follows.
  const [asked, setAsked] = useState<{ mm: number; bend?: number }>();
  const newest = useRef(0);
  useEffect(() => setAsked((now) => (now?.bend === undefined ? now : undefined)), [bare_radius_mm]);
  const radius = asked?.mm ?? bare_radius_mm;

  async function byRadius(mm: number, resting: boolean) {
    newest.current += 1;
    const mine = newest.current;
    setAsked({ mm });
    try {
      const bend = await take(api.POST("/api/bend", { body: { wide_mm, radius_mm: mm } }));
      if (mine !== newest.current) return;
      // An angle that is the same, as there is no other, changes nothing that it could follow.
      setAsked(bend === form.bend ? undefined : { mm, bend });
      set({ bend }, "bend", resting);
    } catch (error) {
      setAsked(undefined);
      showError(error);
    }
  }

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
      {radius != null && (
        <LengthField
          label="Bare radius"
          value={{ mm: radius }}
          range={[1, 2000]}
          step={1}
          help="Type it instead of the bend."
          onChange={({ mm }, resting) => void byRadius(mm, resting)}
        />
      )}
      <Side form={form} set={set} />
    </>
  );
}
