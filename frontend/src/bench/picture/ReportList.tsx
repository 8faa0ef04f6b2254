import { Spinner } from "react-bootstrap";
import type { Correction, Finding, Recipe } from "../../api/client";
import { Button } from "../../shared/Button";
import { usePieceStore } from "../pieceStore";
import { useStill } from "../useStill";
import { useReport } from "./useReport";
import { correctionKind } from "../steps/corrections";

interface Props {
  recipe: Recipe;
  /** The report is read from what is kept, not from every move of a control. */
  resting: boolean;
  add: (remedy: Correction) => void;
}

const TONES = { wrong: "state-wrong", caution: "state-caution", note: "state-quiet" };
const WORDS = { wrong: "will not print as meant", caution: "may not print as meant", note: "good to know" };

/** What of the corrected picture will not print as meant, each with its remedy. */
export function ReportList({ recipe, resting, add }: Props) {
  const { marked, mark } = usePieceStore();
  const { reading, ...read } = useReport(recipe, resting);
  const findings = useStill(read.findings);
  const done = useStill(read.done);
  return (
    <section className="report" aria-label="Picture report">
      <h3>
        Report
        {reading && <Spinner role="status" size="sm" className="ms-2" aria-label="Reading the picture" />}
      </h3>
      {done && findings.length === 0 && <p className="state-good">Nothing stands in the way.</p>}
      <ul>
        {findings.map((finding) => (
          <FindingItem
            key={finding.key}
            finding={finding}
            shown={marked === finding.key}
            show={() => mark(marked === finding.key ? undefined : finding.key)}
            mend={() => {
              mark(undefined);
              if (finding.remedy) add(finding.remedy);
            }}
          />
        ))}
      </ul>
    </section>
  );
}

interface ItemProps {
  finding: Finding;
  shown: boolean;
  show: () => void;
  mend: () => void;
}

function FindingItem({ finding, shown, show, mend }: ItemProps) {
  return (
    <li className="finding" data-kind={finding.kind}>
      <div className={`finding-state ${TONES[finding.severity]}`}>{WORDS[finding.severity]}</div>
      {finding.text}
      <div className="finding-actions">
        {finding.remedy && (
          <Button size="sm" variant="plain" onClick={mend}>
            {correctionKind(finding.remedy).name}
          </Button>
        )}
        {finding.marked && (
          <button type="button" className="btn btn-sm btn-link" aria-pressed={shown} onClick={show}>
            {shown ? "Hide" : "Show me"}
          </button>
        )}
      </div>
    </li>
  );
}
