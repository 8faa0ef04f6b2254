import { useBench } from "./benchStore";
import { stopOf } from "./stops";
import type { PanelProps } from "./stops/stop";

/** What can be set at the chosen stop. */
export function ControlPanel(props: PanelProps) {
  const { Panel } = stopOf(
    props.recipe,
    useBench((state) => state.stop),
  );
  return (
    <aside className="control-panel" aria-label="Control panel">
      <Panel {...props} />
    </aside>
  );
}
