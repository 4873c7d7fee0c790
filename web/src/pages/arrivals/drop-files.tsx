/** Files dropped into Arrivals: looked up where music usually comes from, for a browser does not tell where they lie. */
import { Box } from "@mui/material";
import { useEffect, useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { useSay } from "../../components/messages";
import { useFixed } from "../../components/use-fixed";

type Dropped = Schema["DroppedBody"];

interface Props {
  onAudio: (paths: string[]) => void;
  onPlaylist: (path: string) => void;
}

export function DropFiles({ onAudio, onPlaylist }: Props) {
  const say = useSay();
  const look = useChange((files: Dropped[]) => unwrap(client.POST("/api/dropped", { body: { files } })));
  const { take } = useFixed({
    take: (files: Dropped[]) =>
      look.mutate(files, {
        onSuccess: ({ audio, playlists, missing }) => {
          if (audio.length) onAudio(audio);
          if (playlists[0]) onPlaylist(playlists[0]);
          if (missing.length) say(missingWords(missing), "error");
        },
      }),
  });
  const over = useDrop(take);
  if (!over && !look.isPending) return null;
  return (
    <Box
      role="status"
      sx={(theme) => ({
        position: "fixed",
        inset: 12,
        zIndex: theme.zIndex.modal,
        display: "grid",
        placeItems: "center",
        border: `3px dashed ${theme.inks.now}`,
        borderRadius: "6px",
        bgcolor: theme.inks.paper,
        opacity: 0.92,
        fontSize: "1.3rem",
        pointerEvents: "none",
      })}
    >
      {look.isPending ? "Looking where these files lie…" : "Let go, and Vinyl looks where these files lie"}
    </Box>
  );
}

function missingWords(missing: string[]): string {
  const names = missing.slice(0, 3).join(", ");
  const rest = missing.length > 3 ? ` and ${counted(missing.length - 3, "more file")}` : "";
  return `${names}${rest} could not be found: a browser does not tell where files lie. Choose them with “Choose a folder, files or a playlist”.`;
}

/** Whether files are held over the window; tells of those that are let go. */
function useDrop(take: (files: Dropped[]) => void): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const holds = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const enter = (event: DragEvent) => {
      if (!holds(event)) return;
      event.preventDefault();
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const drop = (event: DragEvent) => {
      setOver(false);
      if (!holds(event) || !event.dataTransfer) return;
      event.preventDefault();
      void filesOf(event.dataTransfer).then((files) => files.length && take(files));
    };
    window.addEventListener("dragover", enter);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", enter);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, [take]);
  return over;
}

/** Names and sizes of what was dropped; folders are gone through. */
async function filesOf(data: DataTransfer): Promise<Dropped[]> {
  const entries = [...data.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  if (!entries.length) return [...data.files].map(({ name, size }) => ({ name, size_bytes: size }));
  return (await Promise.all(entries.map(within))).flat();
}

async function within(entry: FileSystemEntry): Promise<Dropped[]> {
  if (entry instanceof FileSystemDirectoryEntry)
    return (await Promise.all((await listed(entry)).map(within))).flat();
  if (!(entry instanceof FileSystemFileEntry)) return [];
  const { name, size } = await new Promise<File>((resolve, reject) => entry.file(resolve, reject));
  return [{ name, size_bytes: size }];
}

/** All of a folder: a reader gives it in pieces. */
async function listed(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const piece = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (!piece.length) return all;
    all.push(...piece);
  }
}
