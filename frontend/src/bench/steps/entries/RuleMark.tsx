import type { Entry } from "../../../api/client";

const PATHS: Record<string, string> = {
  picture: "M1 15L1 10L7 5L11 9L16 3L21 8L25 6L25 15Z",
  replace: "M1 15V11H8V4H18V11H25V15Z",
  add: "M1 15V11H7V6H11V3H15V6H19V11H25V15Z",
  highest: "M1 15V11L6 11L8 6H18L20 9L25 9V15Z",
  lowest: "M1 15V5H8V11H18V5H25V15Z",
  cut: "M1 15V6H9V15ZM17 15V6H25V15Z",
};

/** A small section: what an entry does to what lies below it. */
export function RuleMark({ entry }: { entry: Entry }) {
  const shape = entry.kind === "picture" ? "picture" : entry.rule;
  return (
    <svg className="rule-mark" width="26" height="16" viewBox="0 0 26 16" aria-hidden="true">
      <path d={PATHS[shape]} />
    </svg>
  );
}
