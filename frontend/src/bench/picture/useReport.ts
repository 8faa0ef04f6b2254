import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type Finding, postForLines, type Recipe, Refusal, type Schemas } from "../../api/client";
import { useOldQuery } from "../../shared/old";
import { pictureKey } from "./useCorrected";

const GRAVITY = { wrong: 0, caution: 1, note: 2 };
const NONE: Finding[] = [];

const sorted = (findings: Finding[]) => findings.sort((a, b) => GRAVITY[a.severity] - GRAVITY[b.severity]);

interface Report {
  findings: Finding[];
  done: boolean;
}

/** The picture report, its findings one after the other as they are found. */
export function useReport(recipe: Recipe, resting: boolean) {
  const queries = useQueryClient();
  const queryKey = ["report", pictureKey(recipe), recipe.made_with.printer];
  const query = useQuery({
    queryKey,
    queryFn: async ({ signal }): Promise<Report> => {
      // What was seen at a glance stands until it is found again, or all is read.
      const glanced = new Map<string, Finding>();
      const found = new Map<string, Finding>();
      for await (const line of postForLines<Schemas["ReportLine"]>("/api/report", { recipe }, signal)) {
        if (line.error) throw new Refusal(line.error);
        if (line.done) return { findings: sorted([...found.values()]), done: true };
        if (!line.finding) continue;
        (line.early ? glanced : found).set(line.finding.key, line.finding);
        const findings = sorted([...new Map([...glanced, ...found]).values()]);
        queries.setQueryData<Report>(queryKey, { findings, done: false });
      }
      throw new TypeError("the report ended early");
    },
    // It is read from what is kept, not from every move of a control.
    enabled: resting,
    placeholderData: (before) => before,
    staleTime: (known) => (known.state.data?.done ? Infinity : 0),
    retry: false,
  });
  useOldQuery("the report", query);
  return {
    findings: query.data?.findings ?? NONE,
    reading: query.isFetching,
    done: (query.data?.done ?? false) && !query.isPlaceholderData,
  };
}
