import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

interface ServerEvent {
  type: "import" | "analysis" | "tracks" | "crates" | "stick" | "library" | "reload";
}

const TOUCHES: Record<ServerEvent["type"], string[]> = {
  import: ["imports", "work", "order", "index"],
  analysis: ["work", "rows", "workbench", "order", "index"],
  tracks: ["rows", "workbench", "undo", "plan", "order"],
  crates: ["crates", "order", "workbench", "undo", "sticks", "plan"],
  stick: ["sticks", "work"],
  library: [],
  reload: [],
};
const GATHER_MS = 400;

/** Follow what the server says has changed; many events close together become one refresh. Returns whether it is heard. */
export function useServerEvents(): boolean {
  const queries = useQueryClient();
  const [heard, setHeard] = useState(true);
  useEffect(() => {
    const pending = new Set<string>();
    let source: EventSource | null = null;
    let timer: number | undefined;
    const gather = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as ServerEvent;
      for (const key of TOUCHES[event.type].length ? TOUCHES[event.type] : ["*"]) pending.add(key);
      timer ??= window.setTimeout(() => {
        timer = undefined;
        refresh(queries, pending);
        pending.clear();
      }, GATHER_MS);
    };
    const close = () => {
      source?.close();
      source = null;
    };
    const listen = () => {
      if (source) return;
      source = new EventSource("/api/events");
      source.onopen = () => setHeard(true);
      source.onerror = () => setHeard(false);
      source.onmessage = gather;
    };
    // A browser opens few connections to one server: only windows in sight keep one. The first event makes up for the rest.
    const follow = () => (document.visibilityState === "visible" ? listen() : close());
    follow();
    document.addEventListener("visibilitychange", follow);
    window.addEventListener("pagehide", close);
    window.addEventListener("pageshow", follow);
    return () => {
      close();
      window.clearTimeout(timer);
      document.removeEventListener("visibilitychange", follow);
      window.removeEventListener("pagehide", close);
      window.removeEventListener("pageshow", follow);
    };
  }, [queries]);
  return heard;
}

function refresh(queries: QueryClient, keys: Set<string>) {
  if (keys.has("*")) void queries.invalidateQueries();
  else for (const key of keys) void queries.invalidateQueries({ queryKey: [key] });
}
