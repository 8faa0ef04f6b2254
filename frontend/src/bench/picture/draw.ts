import type { Frame } from "./frame";
import type { Shown } from "./useCorrected";
import { COLOURS } from "../../shared/colours";

const MADDER = COLOURS.madder;
const OCHRE = COLOURS.ochre;

export interface Scene {
  shown: Shown;
  frame: Frame;
  /** Share of the width left of which the first state is shown; 1 is all of it. */
  first: number;
  mark: ImageBitmap | undefined;
  /** Of a figure, as large as the picture, over what is right of the first state. */
  seen: ImageBitmap | undefined;
  repeated: boolean;
}

function hatch(context: CanvasRenderingContext2D): CanvasPattern | string {
  const tile = document.createElement("canvas");
  tile.width = tile.height = 8;
  const pen = tile.getContext("2d");
  if (!pen) return MADDER;
  pen.fillStyle = "rgba(255, 255, 255, 0.55)";
  pen.fillRect(0, 0, 8, 8);
  pen.strokeStyle = MADDER;
  pen.lineWidth = 1.2;
  pen.beginPath();
  for (const shift of [-8, 0, 8]) {
    pen.moveTo(shift - 1, 9);
    pen.lineTo(shift + 9, -1);
  }
  pen.stroke();
  return context.createPattern(tile, "repeat") ?? MADDER;
}

/** A fill cut to a mask, laid over the picture. */
function lay(
  context: CanvasRenderingContext2D,
  mask: ImageBitmap,
  { left, top, width, height }: Frame,
  fill: (pen: CanvasRenderingContext2D) => CanvasPattern | string,
  strength = 1,
) {
  const { width: wide, height: tall } = context.canvas;
  const sheet = new OffscreenCanvas(wide, tall);
  const pen = sheet.getContext("2d") as unknown as CanvasRenderingContext2D | null;
  if (!pen) return;
  pen.setTransform(context.getTransform());
  pen.fillStyle = fill(context);
  pen.fillRect(left, top, width, height);
  pen.globalCompositeOperation = "destination-in";
  pen.drawImage(mask, left, top, width, height);
  context.save();
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.globalAlpha = strength;
  context.drawImage(sheet, 0, 0);
  context.restore();
}

/** Paint the picture, what is dropped of it, and what a finding marks. */
export function draw(canvas: HTMLCanvasElement, scene: Scene) {
  const context = canvas.getContext("2d");
  if (!context) return;
  const ratio = window.devicePixelRatio || 1;
  const wide = Math.round(canvas.clientWidth * ratio);
  const tall = Math.round(canvas.clientHeight * ratio);
  if (canvas.width !== wide || canvas.height !== tall) {
    canvas.width = wide;
    canvas.height = tall;
  }
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.clearRect(0, 0, canvas.clientWidth, canvas.clientHeight);
  const { shown, frame, first, mark, seen, repeated } = scene;
  const { left, top, width, height } = frame;
  context.imageSmoothingEnabled = width < shown.pixels.width * 3;
  context.imageSmoothingQuality = "high";
  if (repeated) {
    for (let row = 0; row < 3; row += 1)
      for (let column = 0; column < 3; column += 1)
        context.drawImage(shown.pixels, left + (column * width) / 3, top + (row * height) / 3, width / 3, height / 3);
    return;
  }
  context.drawImage(shown.pixels, left, top, width, height);
  if (shown.dropped) lay(context, shown.dropped, frame, hatch);
  if (mark) lay(context, mark, frame, () => OCHRE, 0.72);
  if (seen) context.drawImage(seen, left, top, width, height);
  if (first > 0 && shown.before) {
    context.save();
    context.beginPath();
    context.rect(left, top, width * first, height);
    context.clip();
    context.drawImage(shown.before, left, top, width, height);
    context.restore();
  }
}

/** Tone of a pixel of the shown picture, 0 to 1. */
export function toneReader(pixels: ImageBitmap): (u: number, v: number) => number {
  const sheet = new OffscreenCanvas(pixels.width, pixels.height);
  const pen = sheet.getContext("2d", { willReadFrequently: true });
  pen?.drawImage(pixels, 0, 0);
  return (u, v) => {
    const x = Math.round(u * (pixels.width - 1));
    const y = Math.round(v * (pixels.height - 1));
    const [red, green, blue] = pen?.getImageData(x, y, 1, 1).data ?? [0, 0, 0];
    return (0.2126 * red + 0.7152 * green + 0.0722 * blue) / 255;
  };
}

/** Colour of a pixel of the shown picture, each channel 0 to 1. */
export function colourAt(pixels: ImageBitmap, u: number, v: number): [number, number, number] {
  const sheet = new OffscreenCanvas(1, 1);
  const pen = sheet.getContext("2d");
  pen?.drawImage(pixels, -Math.round(u * (pixels.width - 1)), -Math.round(v * (pixels.height - 1)));
  const [red, green, blue] = pen?.getImageData(0, 0, 1, 1).data ?? [0, 0, 0];
  return [red / 255, green / 255, blue / 255];
}
