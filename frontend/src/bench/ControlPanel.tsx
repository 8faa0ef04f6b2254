import { useBench } from "./benchStore";
import { FinishPanel } from "./panels/FinishPanel";
import { FormPanel } from "./panels/FormPanel";
import { HeightsPanel } from "./panels/HeightsPanel";
import type { PanelProps } from "./panels/PanelProps";
import { PicturePanel } from "./panels/PicturePanel";
import { ProofPanel } from "./panels/ProofPanel";

const PANELS = {
  picture: PicturePanel,
  heights: HeightsPanel,
  form: FormPanel,
  finish: FinishPanel,
  proof: ProofPanel,
};

/** What can be set at the chosen stop. */
export function ControlPanel(props: PanelProps) {
  const stop = useBench((state) => state.stop);
  const Panel = PANELS[stop];
  return (
    <aside className="control-panel" aria-label="Control panel">
      <Panel {...props} />
    </aside>
  );
}
