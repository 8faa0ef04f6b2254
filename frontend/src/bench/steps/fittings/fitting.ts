import type { Fitting } from "../../../api/client";
import type { EditorProps, StepKind } from "../kinds";

type Made<K extends Fitting["kind"]> = Extract<Fitting, { kind: K }>;

export type FittingStep<K extends Fitting["kind"]> = StepKind<Made<K>, object>;
export type Editing<K extends Fitting["kind"]> = EditorProps<Made<K>, object>;
