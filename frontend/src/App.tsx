import { lazy, Suspense } from "react";
import { createBrowserRouter, RouterProvider } from "react-router";
import { EmptyState } from "./shared/EmptyState";
import { FailedScreen } from "./shared/FailedScreen";
import { NoticeStack } from "./shared/NoticeStack";
import { ShortcutSheet } from "./shared/ShortcutSheet";
import { Shelf } from "./shelf/Shelf";
import { Makers } from "./makers/Makers";
import { Workshop } from "./workshop/Workshop";

// The bench brings the 3D library along; the shelf does without.
const Bench = lazy(() => import("./bench/Bench"));

const screens = [
  { path: "/", element: <Shelf /> },
  { path: "/pieces/:pieceId", element: <Bench /> },
  { path: "/workshop", element: <Workshop /> },
  { path: "/makers", element: <Makers /> },
  { path: "*", element: <EmptyState title="There is nothing at this address" /> },
];
const router = createBrowserRouter(screens.map((screen) => ({ ...screen, errorElement: <FailedScreen /> })));

export function App() {
  return (
    <>
      <Suspense fallback={<EmptyState title="Clearing the bench" />}>
        <RouterProvider router={router} />
      </Suspense>
      <NoticeStack />
      <ShortcutSheet />
    </>
  );
}
