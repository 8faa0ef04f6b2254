import { create } from "zustand";
import { detailOf } from "../api/client";

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

const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** Show an error as what, why and remedy. */
export function showError(error: unknown) {
  const { what, why, remedy } = detailOf(error);
  useNotices.getState().show({ tone: "error", title: what, text: `${sentence(why)}. ${remedy}.` });
}
