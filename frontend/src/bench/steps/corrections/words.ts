import { mm } from "../../../shared/format";
import type { CorrectionContext } from "./correction";

export const length = (value: { mm: number }) => `${mm(value.mm)} mm`;
export const tone = (value: number) => mm(value, 3);
export const count = (many: number, one: string) => `${many} ${one}${many === 1 ? "" : "s"}`;

/** The middle of the picture, pixels. */
export const middle = ({ piece: { picture } }: CorrectionContext): [number, number] => [(picture.cols - 1) / 2, (picture.rows - 1) / 2];
