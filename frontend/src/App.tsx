import { lazy, Suspense } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { ShortcutList } from "./kit/ShortcutList";

const HomePage = lazy(() => import("./home").then((m) => ({ default: m.HomePage })));
const PlanPage = lazy(() => import("./plan").then((m) => ({ default: m.PlanPage })));
const ShootPage = lazy(() => import("./shoot").then((m) => ({ default: m.ShootPage })));
const CutPage = lazy(() => import("./cut").then((m) => ({ default: m.CutPage })));
const FinishPage = lazy(() => import("./finish").then((m) => ({ default: m.FinishPage })));
const DeliverPage = lazy(() => import("./deliver").then((m) => ({ default: m.DeliverPage })));

export function App() {
  return (
    <BrowserRouter>
      <ShortcutList />
      <Suspense fallback={null}>
        <Routes>
          <Route path="/" element={<HomePage />} />
          <Route path="/shoots/:shootId/plan" element={<PlanPage />} />
          <Route path="/shoots/:shootId/shoot" element={<ShootPage />} />
          <Route path="/shoots/:shootId/cut/:shotId?" element={<CutPage />} />
          <Route path="/shoots/:shootId/finish/:shotId?" element={<FinishPage />} />
          <Route path="/shoots/:shootId/deliver/:outlet?" element={<DeliverPage />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
    </BrowserRouter>
  );
}
