/** From the picture that was brought in to the screen and back. */

export type Spot = [number, number];

/** Takes a pixel of the picture brought in to a share (0 to 1) of what is shown: 3 × 3 by rows. */
export type Matrix = number[];

export const apply = (m: Matrix, [x, y]: Spot): Spot => [m[0] * x + m[1] * y + m[2], m[3] * x + m[4] * y + m[5]];

export function inverse(m: Matrix): Matrix {
  const [a, b, c, d, e, f] = m;
  const whole = a * e - b * d;
  return [e / whole, -b / whole, (b * f - c * e) / whole, -d / whole, a / whole, (c * d - a * f) / whole, 0, 0, 1];
}

/** Where what is shown lies in the view, px. */
export interface Frame {
  left: number;
  top: number;
  width: number;
  height: number;
  wideMm: number;
  tallMm: number;
  /** Pixels of the corrected picture. */
  cols: number;
  rows: number;
  place: Matrix;
}

export const toScreen = (frame: Frame, [u, v]: Spot): Spot => [frame.left + u * frame.width, frame.top + v * frame.height];

export const toShare = (frame: Frame, [x, y]: Spot): Spot => [(x - frame.left) / frame.width, (y - frame.top) / frame.height];

const tenth = (value: number) => Math.round(value * 10) / 10;

/** A spot of the screen in pixels of the picture brought in. */
export const toPlace = (frame: Frame, spot: Spot): Spot => {
  const [x, y] = apply(inverse(frame.place), toShare(frame, spot));
  return [tenth(x), tenth(y)];
};

export const fromPlace = (frame: Frame, place: Spot): Spot => toScreen(frame, apply(frame.place, place));

/** How many pixels of the picture brought in one mm takes. */
export function pxPerMm(frame: Frame): number {
  const m = frame.place;
  const area = Math.abs(m[0] * m[4] - m[1] * m[3]) * frame.wideMm * frame.tallMm;
  return 1 / Math.sqrt(Math.max(area, 1e-12));
}

/** What one press of an arrow key moves, px of the screen: one pixel of the picture. */
export const arrowStep = (frame: Frame) => frame.width / Math.max(1, frame.cols - 1);

const ARROWS: Record<string, Spot> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** Where an arrow key leads; with Shift ten times as far. */
export function arrowWay(event: { key: string; shiftKey: boolean; altKey: boolean; ctrlKey: boolean; metaKey: boolean }): Spot | undefined {
  if (event.altKey || event.ctrlKey || event.metaKey) return undefined;
  const way = ARROWS[event.key];
  const times = event.shiftKey ? 10 : 1;
  return way && [way[0] * times, way[1] * times];
}

export const screenPerMm = (frame: Frame) => frame.width / frame.wideMm;
