/** Two changes of one recipe, made apart from each other, as one. */

type Json = unknown;
type Fields = Record<string, Json>;

const isFields = (value: Json): value is Fields => typeof value === "object" && value !== null && !Array.isArray(value);
const idOf = (value: Json) => (isFields(value) && typeof value.id === "string" && value.id) || undefined;
const areSteps = (value: Json): value is Fields[] => Array.isArray(value) && value.every(idOf);

/** Whether two documents say the same, however their fields are ordered. */
export function same(a: Json, b: Json): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((item, i) => same(item, b[i]));
  if (!isFields(a) || !isFields(b)) return false;
  const names = Object.keys(a);
  return names.length === Object.keys(b).length && names.every((name) => name in b && same(a[name], b[name]));
}

/**
 * A document with what either side changed of `base`; where both did, mine.
 *
 * Objects are merged field by field, lists of steps by their ids; lengths, other lists and
 * steps that became another kind are taken whole. A step that one side took away and the
 * other changed stays.
 */
export function merge<T>(base: T, mine: T, theirs: T): T {
  return merged(base, mine, theirs) as T;
}

function merged(base: Json, mine: Json, theirs: Json): Json {
  if (same(mine, base)) return theirs;
  if (same(theirs, base) || same(theirs, mine)) return mine;
  if (areSteps(base) && areSteps(mine) && areSteps(theirs)) return mergeSteps(base, mine, theirs);
  if (isFields(base) && isFields(mine) && isFields(theirs) && !("mm" in mine)) {
    if (base.kind === mine.kind && base.kind === theirs.kind) return mergeFields(base, mine, theirs);
  }
  return mine;
}

function mergeFields(base: Fields, mine: Fields, theirs: Fields): Fields {
  const found: Fields = {};
  for (const name of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
    const value = merged(base[name], mine[name], theirs[name]);
    if (value !== undefined) found[name] = value;
  }
  return found;
}

function mergeSteps(base: Fields[], mine: Fields[], theirs: Fields[]): Fields[] {
  const [old, own, other] = [base, mine, theirs].map((list) => new Map(list.map((item) => [item.id as string, item])));
  const common = [...old.keys()].filter((id) => own.has(id) && other.has(id));
  const moved = !same(
    [...own.keys()].filter((id) => common.includes(id)),
    common,
  );
  const [lead, follow] = moved ? [own, other] : [other, own];
  const order = [...lead.keys()];
  const following = [...follow.keys()];
  for (const [at, id] of following.entries()) {
    if (order.includes(id)) continue;
    // After the one that it follows there.
    const before = following.slice(0, at).findLast((name) => order.includes(name));
    order.splice(before === undefined ? 0 : order.indexOf(before) + 1, 0, id);
  }
  return order.flatMap((id) => {
    const [was, here, there] = [old.get(id), own.get(id), other.get(id)];
    if (here && there) return [merged(was ?? there, here, there) as Fields];
    const left = here ?? there;
    // New, or changed by the side that did not take it away.
    return left && !same(left, was) ? [left] : [];
  });
}
