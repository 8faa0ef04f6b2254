/** Boxes of a crop, in whole pixels of the picture as it stands before it. */

export interface CropRoom {
  cols: number;
  rows: number;
  /** Width to height, when it is kept. */
  ratio?: number | null;
}

export interface Box {
  x: number;
  y: number;
  wide: number;
  tall: number;
}

const LEAST = 2;
const clamp = (value: number, low: number, high: number) => Math.min(Math.max(low, high), Math.max(low, value));

/** The box moved as a whole; it stays in the picture. */
export function moveBox(old: Box, [dx, dy]: [number, number], { cols, rows }: CropRoom): Box {
  return {
    ...old,
    x: Math.round(clamp(old.x + dx, 0, cols - old.wide)),
    y: Math.round(clamp(old.y + dy, 0, rows - old.tall)),
  };
}

/**
 * The box pulled by one of its sides or corners ("n", "se"…): the opposite one stays where it
 * is, and so do the proportions, where they are kept. A side pulled with proportions kept
 * widens the other direction evenly about its middle.
 */
export function pullBox(old: Box, sides: string, [dx, dy]: [number, number], room: CropRoom): Box {
  const across = sides.includes("w") ? -1 : sides.includes("e") ? 1 : 0;
  const down = sides.includes("n") ? -1 : sides.includes("s") ? 1 : 0;
  const most = {
    wide: across < 0 ? old.x + old.wide : across > 0 ? room.cols - old.x : room.cols,
    tall: down < 0 ? old.y + old.tall : down > 0 ? room.rows - old.y : room.rows,
  };
  let wide = clamp(old.wide + across * dx, LEAST, most.wide);
  let tall = clamp(old.tall + down * dy, LEAST, most.tall);
  const { ratio } = room;
  if (ratio) {
    // A corner follows whichever way the hand went further.
    const byTall = across === 0 || (down !== 0 && Math.abs(tall / old.tall - 1) > Math.abs(wide / old.wide - 1));
    if (byTall) wide = tall * ratio;
    wide = clamp(wide, LEAST * Math.max(1, ratio), Math.min(most.wide, most.tall * ratio));
    tall = wide / ratio;
  }
  wide = Math.max(LEAST, Math.round(wide));
  tall = Math.max(LEAST, Math.round(tall));
  const anchor = (place: number, size: number, now: number, way: number, limit: number) =>
    way > 0 ? place : way < 0 ? place + size - now : clamp(Math.round(place + (size - now) / 2), 0, limit - now);
  return {
    x: anchor(old.x, old.wide, wide, across, room.cols),
    y: anchor(old.y, old.tall, tall, down, room.rows),
    wide,
    tall,
  };
}

/** How far each number of the box may go, px, with the others as they are. */
export function boxLimits(box: Box, { cols, rows, ratio }: CropRoom) {
  const wide = Math.min(cols - box.x, ratio ? (rows - box.y) * ratio : cols);
  const tall = Math.min(rows - box.y, ratio ? (cols - box.x) / ratio : rows);
  // What is left must be worth keeping.
  const worth = (side: number) => side - Math.max(LEAST, Math.round(side / 20));
  return { x: worth(cols), y: worth(rows), wide: Math.floor(wide), tall: Math.floor(tall) };
}

/** The box with one number typed; the far sides stay in the picture, the proportions as set. */
export function typeBox(old: Box, part: Partial<Box>, room: CropRoom): Box {
  const next = { ...old, ...part };
  const { cols, rows, ratio } = room;
  next.x = Math.round(clamp(next.x, 0, cols - LEAST));
  next.y = Math.round(clamp(next.y, 0, rows - LEAST));
  if (ratio && part.tall !== undefined) next.wide = next.tall * ratio;
  next.wide = Math.min(next.wide, cols - next.x);
  if (ratio) {
    next.wide = Math.min(next.wide, (rows - next.y) * ratio);
    next.tall = next.wide / ratio;
  }
  next.wide = Math.max(LEAST, Math.round(next.wide));
  next.tall = Math.max(LEAST, Math.round(Math.min(next.tall, rows - next.y)));
  return next;
}
