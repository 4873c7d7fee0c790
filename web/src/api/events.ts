/** Follows the server's stream of events, and what its answers say has changed. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type ServerEvent } from "./client";
import { Freshness } from "./freshness";

const HEADER = "X-Vinyl-Changed";

/** Keeps this window fresh for as long as it is open. Returns whether the server is heard. */
export function useServerEvents(): boolean {
  const queries = useQueryClient();
  const [heard, setHeard] = useState(true);
  useEffect(() => {
    const freshness = new Freshness(queries);
    const unhook = hearAnswers(freshness);
    const unfollow = followStream(freshness, setHeard);
    return () => {
      unhook();
      unfollow();
    };
  }, [queries]);
  return heard;
}

/** An answer tells what its own request has changed: this window need not wait for the event. */
function hearAnswers(freshness: Freshness): () => void {
  const middleware = {
    onResponse({ response }: { response: Response }) {
      const told = response.headers.get(HEADER);
      for (const event of told ? (JSON.parse(told) as ServerEvent[]) : []) freshness.hear(event);
    },
  };
  client.use(middleware);
  return () => client.eject(middleware);
}

/** A browser opens few connections to one server: only windows in sight keep one. The first event makes up for the rest. */
function followStream(freshness: Freshness, setHeard: (heard: boolean) => void): () => void {
  let source: EventSource | null = null;
  const close = () => {
    source?.close();
    source = null;
  };
  const listen = () => {
    if (source) return;
    source = new EventSource("/api/events");
    source.onopen = () => setHeard(true);
    source.onerror = () => setHeard(false);
    source.onmessage = (message: MessageEvent<string>) =>
      freshness.hear(JSON.parse(message.data) as ServerEvent);
  };
  const follow = () => (document.visibilityState === "visible" ? listen() : close());
  follow();
  document.addEventListener("visibilitychange", follow);
  window.addEventListener("pagehide", close);
  window.addEventListener("pageshow", follow);
  return () => {
    close();
    document.removeEventListener("visibilitychange", follow);
    window.removeEventListener("pagehide", close);
    window.removeEventListener("pageshow", follow);
  };
}
