import { lazy, Suspense } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { EmptyState } from "./shared/EmptyState";
import { NoticeStack } from "./shared/NoticeStack";
import { ShortcutSheet } from "./shared/ShortcutSheet";
import { Shelf } from "./shelf/Shelf";
import { Workshop } from "./workshop/Workshop";

// The bench brings the 3D library along; the shelf does without.
const Bench = lazy(() => import("./bench/Bench"));

export function App() {
  return (
    <BrowserRouter>
      <Suspense fallback={<EmptyState title="Clearing the bench" />}>
        <Routes>
          <Route path="/" element={<Shelf />} />
          <Route path="/pieces/:pieceId" element={<Bench />} />
          <Route path="/workshop" element={<Workshop />} />
          <Route path="*" element={<EmptyState title="There is nothing at this address" />} />
        </Routes>
      </Suspense>
      <NoticeStack />
      <ShortcutSheet />
    </BrowserRouter>
  );
}
