import { create } from "zustand";
import { detailOf, type ErrorDetail } from "../api/client";

export interface Notice {
  id: number;
  tone: "error" | "plain";
  title: string;
  text?: string;
  action?: { label: string; run: () => void };
}

interface Notices {
  list: Notice[];
  show: (notice: Omit<Notice, "id">) => void;
  drop: (id: number) => void;
}

let last = 0;

export const useNotices = create<Notices>((set) => ({
  list: [],
  show: (notice) => {
    last += 1;
    const id = last;
    set((state) => ({ list: [...state.list.slice(-3), { ...notice, id }] }));
  },
  drop: (id) => set((state) => ({ list: state.list.filter((notice) => notice.id !== id) })),
}));

export const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What it is about as it begins a sentence; a file keeps its letters. */
export const named = (what: string) => (/\.\w{1,5}$/.test(what) ? what : sentence(what));

/** Show what was refused, why, and what to do. */
export function showRefused({ kind, what, why, remedy }: ErrorDetail) {
  if (kind === "cancelled") return; // by whoever would be told
  useNotices.getState().show({ tone: "error", title: named(what), text: `${sentence(why)}. ${remedy}.` });
}

/** Show an error of any kind the same way. */
export const showError = (error: unknown) => showRefused(detailOf(error));
