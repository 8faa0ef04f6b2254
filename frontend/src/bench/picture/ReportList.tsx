import { useQuery } from "@tanstack/react-query";
import { Spinner } from "react-bootstrap";
import { api, type Correction, detailOf, type Finding, type Recipe, type Schemas, takeAs } from "../../api/client";
import { Button } from "../../shared/Button";
import { usePictureStore } from "./pictureStore";
import { pictureKey } from "./useCorrected";
import { KINDS } from "./kinds";

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
  const { marked, mark } = usePictureStore();
  const report = useQuery({
    queryKey: ["report", pictureKey(recipe)],
    queryFn: () => takeAs<Schemas["ReportOut"]>(api.POST("/api/report", { body: { recipe } })),
    enabled: resting,
    placeholderData: (before) => before,
    staleTime: Infinity,
    retry: false,
  });
  const findings = report.data?.findings;
  return (
    <section className="report" aria-label="Picture report">
      <h3>
        Report
        {report.isFetching && <Spinner size="sm" className="ms-2" aria-label="Reading the picture" />}
      </h3>
      {report.isError && <p className="field-error">{detailOf(report.error).why}.</p>}
      {findings?.length === 0 && <p className="state-good">Nothing stands in the way.</p>}
      <ul>
        {findings?.map((finding, index) => (
          <FindingItem
            key={`${finding.kind}-${index}`}
            finding={finding}
            shown={marked === index}
            show={() => mark(marked === index ? undefined : index)}
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
            {KINDS[finding.remedy.kind].name}
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
