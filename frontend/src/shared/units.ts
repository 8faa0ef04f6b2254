import { create } from "zustand";

/** What a nozzle line and a print layer are worth for the piece on the bench, mm. */
export const useUnits = create<{ line_mm: number; layer_mm: number }>(() => ({
  line_mm: 0.42,
  layer_mm: 0.12,
}));
