import { Choice } from "../../shared/Choice";
import type { FieldsProps } from "./form";

type SideName = "outside" | "inside";

/** On which side of a bent surface the heights stand. */
export function Side({ form, set }: Pick<FieldsProps<{ side: SideName }>, "form" | "set">) {
  return (
    <Choice
      label="Heights stand"
      value={form.side}
      options={[
        ["outside", "outside"],
        ["inside", "inside"],
      ]}
      onChange={(side) => set({ side }, "side of the heights")}
    />
  );
}
