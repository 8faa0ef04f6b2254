import { type RefObject, useEffect, useState } from "react";

/** The size of an element inside its padding, px, as it is by now; 0 before it is known. */
export function useRoom(host: RefObject<Element | null>) {
  const [room, setRoom] = useState({ width: 0, height: 0 });
  useEffect(() => {
    if (!host.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      setRoom({ width, height });
    });
    observer.observe(host.current);
    return () => observer.disconnect();
  }, [host]);
  return room;
}
