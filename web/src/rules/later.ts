import { useEffect, useState } from "react";

/** useLater follows a value once it has stood still. */
export function useLater<T>(value: T, ms: number): T {
  const [later, setLater] = useState(value);
  useEffect(() => {
    const t = setTimeout(() => setLater(value), ms);
    return () => clearTimeout(t);
  }, [value, ms]);
  return later;
}
