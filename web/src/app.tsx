import { Navigate, Route, Routes } from "react-router";

import { useEvents } from "./api/events";
import { Frame } from "./frame/Frame";
import { Traced } from "./frame/Traced";
import { Mend } from "./mend/Mend";
import { Start } from "./projects/Start";
import { Receive } from "./receive/Receive";
import { Rules } from "./rules/Rules";
import { Seal } from "./seal/Seal";
import { Sift } from "./sift/Sift";
import { Stow } from "./stow/Stow";
import { Trace } from "./trace/Trace";

export function App() {
  useEvents();
  return (
    <Routes>
      <Route element={<Frame />}>
        <Route index element={<Start />} />
        <Route path="receive" element={<Receive />} />
        <Route path="rules" element={<Rules />} />
        <Route path="p/:id" element={<Traced />}>
          <Route index element={<Navigate to="trace" replace />} />
          <Route path="trace" element={<Trace />} />
          <Route path="mend" element={<Mend />} />
          <Route path="sift" element={<Sift />} />
          <Route path="stow" element={<Stow />} />
          <Route path="seal" element={<Seal />} />
        </Route>
        <Route path="*" element={<Navigate to="/" replace />} />
      </Route>
    </Routes>
  );
}
