import { create } from "zustand";

/** One field with something typed in it that is not taken yet, or was refused. */
interface Typing {
  label: string;
  take: () => Promise<unknown>;
  /** Back to what stood there before. */
  drop: () => void;
  refused: boolean;
}

const open = new Map<object, Typing>();
const underWay = new Set<Promise<unknown>>();

interface Typings {
  /** Whether anything is typed at all. */
  any: boolean;
  /** Fields with something that was refused. */
  refused: Typing[];
}

export const useTypings = create<Typings>(() => ({ any: false, refused: [] }));

function tell() {
  const refused = [...open.values()].filter((typing) => typing.refused);
  const before = useTypings.getState().refused;
  const same = refused.length === before.length && refused.every((typing, i) => typing === before[i]);
  const any = open.size > 0;
  if (!same || any !== useTypings.getState().any) useTypings.setState({ any, refused: same ? before : refused });
}

export function setTyping(field: object, typing: Typing | undefined) {
  if (typing) open.set(field, typing);
  else open.delete(field);
  tell();
}

/** Wait for a text that is being understood. */
export function track<T>(taking: Promise<T>): Promise<T> {
  underWay.add(taking);
  return taking.finally(() => underWay.delete(taking));
}

/** Take everything that is typed anywhere, as if each field had been left. */
export async function takeTyped() {
  for (const typing of open.values()) if (!typing.refused) void track(typing.take());
  while (underWay.size > 0) await Promise.allSettled([...underWay]);
}

/** Put refused texts back to what works; whether there were any. */
export function dropRefused(): boolean {
  const refused = [...open.values()].filter((typing) => typing.refused);
  for (const typing of refused) typing.drop();
  return refused.length > 0;
}
