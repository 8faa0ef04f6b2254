import type { CorrectionStep } from "./correction";

const InvertEditor = () => <p className="field-help mb-0">Dark becomes light and light dark. Nothing to set.</p>;

export const invert: CorrectionStep<"invert"> = {
  name: "Invert",
  purpose: "dark for light",
  also: "negative",
  group: "Tones",
  figure: () => "",
  Editor: InvertEditor,
};
