import { Suspense } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { Navigate, Route, Routes, useLocation } from "react-router";

import { useEvents } from "./api/events";
import { Broken } from "./frame/Broken";
import { Frame } from "./frame/Frame";
import { places, stations, views, type Stop } from "./frame/stations";
import { Traced } from "./frame/Traced";
import { pages } from "./pages";
import { Waiting } from "./shared/parts";

export function App() {
  useEvents();
  return (
    <Routes>
      <Route element={<Frame />}>
        {places.map((p) => (
          <Route key={p.path} path={p.path} element={<Bounded stop={p} />} />
        ))}
        <Route path="p/:id" element={<Traced />}>
          <Route index element={<Navigate to="trace" replace />} />
          {[...stations, ...views].map((s) => (
            <Route key={s.path} path={s.path} element={<Bounded stop={s} />} />
          ))}
        </Route>
        <Route path="*" element={<Navigate to="/" replace />} />
      </Route>
    </Routes>
  );
}

/** Bounded keeps a fault of one station from taking the others with it. */
function Bounded({ stop }: { stop: Stop }) {
  const { pathname } = useLocation();
  const Page = pages[stop.path];
  return (
    <ErrorBoundary FallbackComponent={Broken} resetKeys={[pathname]}>
      <Suspense fallback={<Waiting what="Opening the page." />}>
        <Page />
      </Suspense>
    </ErrorBoundary>
  );
}
