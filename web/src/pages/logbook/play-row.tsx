/** A play in the order of its night. */
import { Box } from "@mui/material";
import type { Schema } from "../../api/client";
import { FIGURES } from "../../theme";

export type Play = Schema["PlayOut"];
export const ROW_PX = 30;
const NARROW = "3.1rem minmax(0, 3fr) minmax(0, auto)";
const WIDE = "3.1rem minmax(0, 2.4fr) minmax(0, 1.2fr) 9.5rem minmax(0, 1.7fr)";

interface Props {
  play: Play;
  /** It followed the one before at an earlier night there too. */
  again?: boolean;
  /** It stands out: both nights have it. */
  strong?: boolean;
  chosen?: boolean;
  narrow?: boolean;
  onChoose?: (event: React.MouseEvent) => void;
  onOpen?: () => void;
  /** Says which track it was, where that is not known. */
  onMatch?: () => void;
  row?: (element: HTMLElement | null) => void;
}

export function PlayRow({ play, again, strong, chosen, narrow, onChoose, onOpen, onMatch, row }: Props) {
  return (
    <Box
      ref={row}
      role={onChoose ? "option" : "listitem"}
      aria-selected={onChoose && (chosen ?? false)}
      data-play={play.id}
      onClick={onChoose}
      onDoubleClick={onOpen}
      sx={(theme) => ({
        ...{
          display: "grid",
          gridTemplateColumns: narrow ? NARROW : WIDE,
          alignItems: "center",
          columnGap: 1.2,
        },
        ...{ height: `${ROW_PX / 16}rem`, px: 0.5 },
        ...{ borderBottom: 1, borderColor: "divider", cursor: onChoose ? "default" : "auto" },
        bgcolor: chosen ? theme.inks.chosenWash : "transparent",
        "& > span": { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
      })}
    >
      <Box
        component="span"
        sx={{
          fontFamily: FIGURES,
          fontSize: "0.8rem",
          color: "text.secondary",
        }}
      >
        {play.at ?? "–"}
      </Box>
      <Title play={play} again={again} strong={strong} onMatch={onMatch} />
      {!narrow && (
        <Box component="span" sx={{ color: "text.secondary" }}>
          {play.artist}
        </Box>
      )}
      {!narrow && <Facts play={play} />}
      <Marks play={play} />
    </Box>
  );
}

type TitleProps = Pick<Props, "play" | "again" | "strong" | "onMatch">;

function Title({ play, again, strong, onMatch }: TitleProps) {
  return (
    <Box component="span" className="title" sx={{ fontWeight: strong ? 650 : 450 }}>
      {again && (
        <Box
          component="span"
          title="Followed the track before it at an earlier night here too"
          sx={{ color: "error.main", mr: 0.5 }}
        >
          ↳
        </Box>
      )}
      {play.title || "Untitled"}
      {play.track_id === null && (
        <Box
          component={onMatch ? "button" : "span"}
          type={onMatch && "button"}
          title={onMatch ? "Say which track it was; else it is found by itself when it arrives" : undefined}
          onClick={onMatch}
          sx={{
            ...{ color: "warning.main", fontSize: "0.75rem", ml: 0.8, border: 0, background: "none", p: 0 },
            ...{ fontFamily: "inherit", cursor: onMatch ? "pointer" : "inherit" },
          }}
        >
          not on the Shelf
        </Box>
      )}
    </Box>
  );
}

function Facts({ play }: { play: Play }) {
  return (
    <Box
      component="span"
      sx={{
        fontFamily: FIGURES,
        fontSize: "0.8rem",
        color: "text.secondary",
      }}
    >
      {play.bpm?.toFixed(1).padStart(5) ?? "–"} {play.key ?? ""}
    </Box>
  );
}

function Marks({ play }: { play: Play }) {
  const never = { "": "", here: "never here again", everywhere: "never again" }[play.never];
  return (
    <Box component="span" sx={{ fontSize: "0.82rem", textAlign: "right" }}>
      {play.note && (
        <Box component="i" sx={{ color: "text.secondary" }}>
          {play.note}{" "}
        </Box>
      )}
      {play.asked && (
        <Box component="b" sx={{ color: "secondary.main", fontWeight: 600 }}>
          asked for{" "}
        </Box>
      )}
      {play.went === "well" && (
        <Box component="b" sx={{ color: "info.main", fontWeight: 600 }}>
          went well{" "}
        </Box>
      )}
      {play.went === "flat" && (
        <Box component="b" sx={{ color: "warning.main", fontWeight: 600 }}>
          fell flat{" "}
        </Box>
      )}
      {never && (
        <Box component="b" sx={{ color: "error.main", fontWeight: 600 }}>
          {never}
        </Box>
      )}
    </Box>
  );
}
