/** The bar at the top: rooms as divider cards, work that goes on, finding, undo, and how everything looks. */
import { Box, Button, IconButton, InputBase, Tooltip } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { NavLink, useLocation, useNavigate } from "react-router";
import { useStepBack } from "../api/changes";
import { isOpen } from "../api/jobs";
import { jobsQuery, undoQuery } from "../api/queries";
import { rememberedShelf } from "../pages/shelf/use-shelf-query";
import { useSettings } from "../settings";
import { FIGURES, NAMES } from "../theme";
import { keyOf } from "./key-map";
import { KEYS } from "./keys";
import { LookMenu } from "./look-menu";
import { ROOMS } from "./use-global-keys";
import { WorkTray } from "./work-tray";

/** The header does not grow as far as the rest: nine rooms have to stand side by side. */
const HEAD_TYPE = "min(1rem, 18px)";

/** The divider cards of the record crate, what goes on in the background, and undo. */
export function TopBar({ heard, onHelp }: { heard: boolean; onHelp: () => void }) {
  // In large type there is room for the rooms only if all else becomes signs.
  const folded = useSettings().size !== "normal";
  return (
    <Box
      component="header"
      sx={(theme) => ({
        display: "flex",
        alignItems: "flex-end",
        gap: 1,
        pl: 2,
        pr: 2,
        height: 50,
        fontSize: HEAD_TYPE,
        bgcolor: theme.inks.bar,
        borderBottom: `2px solid ${theme.inks.ink}`,
        flex: "none",
      })}
    >
      <Logo />
      <Rooms />
      <Box sx={{ flex: 1 }} />
      <Box sx={{ display: "flex", alignItems: "center", gap: folded ? 0.4 : 1, height: 48, flex: "none" }}>
        {heard ? (
          <WorkTray />
        ) : (
          <Box role="alert" sx={{ color: "error.main", fontWeight: 600, fontSize: "0.8rem" }}>
            The server does not answer; trying again…
          </Box>
        )}
        <FindTrack folded={folded} />
        <UndoButtons folded={folded} />
        <LookMenu onHelp={onHelp} />
      </Box>
    </Box>
  );
}

function Logo() {
  return (
    <Box
      sx={{
        display: "flex",
        alignItems: "center",
        gap: 1,
        height: 48,
        fontFamily: NAMES,
        fontWeight: 700,
        fontSize: "1.45em",
        letterSpacing: "-0.02em",
      }}
    >
      <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden>
        <circle cx="10" cy="10" r="10" fill="#14241d" />
        <circle cx="10" cy="10" r="5.5" fill="#e0401f" />
        <circle cx="10" cy="10" r="2" fill="#f8f9f2" />
      </svg>
      Vinyl
    </Box>
  );
}

function Rooms() {
  const jobs = useQuery(jobsQuery).data ?? [];
  const analysis = jobs.find((job) => job.kind === "analysis" && isOpen(job));
  const waiting = analysis?.total ? analysis.total - analysis.done : 0;
  return (
    <Box component="nav" aria-label="Rooms" sx={{ display: "flex", gap: "2px", pl: 0.5, minWidth: 0 }}>
      {ROOMS.map((room, i) => (
        <Tooltip key={room.path} title={`Alt ${i + 1}`} describeChild>
          <Box
            component={NavLink}
            to={room.path === "/shelf" ? rememberedShelf() : room.path}
            sx={(theme) => ({
              px: "0.72em",
              pt: 1,
              pb: 0.9,
              fontSize: "0.84em",
              lineHeight: 1.4,
              textDecoration: "none",
              color: theme.inks.ink,
              bgcolor: theme.inks.tab,
              border: `1px solid ${theme.inks.rule}`,
              borderBottom: 0,
              borderRadius: "7px 7px 0 0",
              mt: "4px",
              "&.active": {
                color: theme.inks.ink,
                fontWeight: 650,
                bgcolor: theme.inks.paper,
                border: `2px solid ${theme.inks.ink}`,
                borderBottom: 0,
                mb: "-2px",
                pt: 1.1,
                pb: 1.1,
                mt: 0,
              },
            })}
          >
            {room.name}
            {room.name === "Arrivals" && waiting > 0 && (
              <Box
                component="span"
                sx={{ fontWeight: 700, fontFamily: FIGURES, fontSize: "0.75rem", ml: 0.8 }}
                aria-label={`${waiting} tracks wait for analysis`}
              >
                {waiting}
              </Box>
            )}
          </Box>
        </Tooltip>
      ))}
    </Box>
  );
}

/** Typing here finds on the Shelf, from any room. */
function FindTrack({ folded }: { folded: boolean }) {
  const navigate = useNavigate();
  const onShelf = useLocation().pathname === "/shelf";
  const [open, setOpen] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const find = () => {
    if (onShelf) document.getElementById("shelf-search")?.focus();
    else if (folded) setOpen(true);
    else input.current?.focus();
  };
  useHotkeys(keyOf(KEYS.everywhere.find), find, { preventDefault: true, useKey: true });
  if (onShelf) return null;
  if (folded && !open)
    return (
      <Sign label="Find a track (/)" onClick={find}>
        ⌕
      </Sign>
    );
  const go = (text: string) => {
    setOpen(false);
    const next = new URLSearchParams(rememberedShelf().split("?")[1]);
    next.set("q", text);
    void navigate(`/shelf?${next.toString()}`, { state: { found: true } });
  };
  return <FindForm input={input} autoFocus={open} onFind={go} onLeave={() => setOpen(false)} />;
}

interface FindProps {
  input: React.RefObject<HTMLInputElement | null>;
  autoFocus: boolean;
  onFind: (text: string) => void;
  onLeave: () => void;
}

function FindForm({ input, autoFocus, onFind, onLeave }: FindProps) {
  const [text, setText] = useState("");
  return (
    <Box
      component="form"
      role="search"
      onSubmit={(event: React.FormEvent) => {
        event.preventDefault();
        onFind(text);
        setText("");
      }}
      sx={(theme) => ({
        display: "flex",
        width: 150,
        border: `1px solid ${theme.inks.rule}`,
        borderRadius: "4px",
        bgcolor: theme.inks.paper,
        px: 1,
      })}
    >
      <InputBase
        inputRef={input}
        autoFocus={autoFocus}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={onLeave}
        placeholder="Find a track"
        inputProps={{ "aria-label": "Find a track" }}
        sx={{ fontSize: "0.84rem", flex: 1 }}
      />
      <Box
        sx={{ alignSelf: "center", fontFamily: FIGURES, fontSize: "0.75rem", color: "text.secondary" }}
        aria-hidden
      >
        /
      </Box>
    </Box>
  );
}

/** A button of the header that is only a sign. */
function Sign({ label, disabled = false, onClick, children }: SignProps) {
  return (
    <IconButton
      aria-label={label}
      title={label}
      disabled={disabled}
      onClick={onClick}
      sx={{ color: "text.primary", fontSize: "1.2rem", width: 32, height: 32, borderRadius: "4px" }}
    >
      {children}
    </IconButton>
  );
}

interface SignProps {
  label: string;
  disabled?: boolean;
  onClick: () => void;
  children: string;
}

function UndoButtons({ folded }: { folded: boolean }) {
  const names = useQuery(undoQuery).data;
  const [undo, redo] = [useStepBack("undo"), useStepBack("redo")];
  const back = names?.undo ? `Undo: ${names.undo.name} (Ctrl Z)` : "Nothing to undo";
  const forth = names?.redo ? `Redo: ${names.redo.name} (Ctrl ⇧ Z)` : "Nothing to redo";
  if (folded)
    return (
      <>
        <Sign label={back} disabled={!names?.undo} onClick={() => undo.mutate()}>
          ↶
        </Sign>
        <Sign label={forth} disabled={!names?.redo} onClick={() => redo.mutate()}>
          ↷
        </Sign>
      </>
    );
  return (
    <>
      <Tooltip title={back} describeChild>
        <span>
          <Button disabled={!names?.undo} onClick={() => undo.mutate()}>
            Undo
          </Button>
        </span>
      </Tooltip>
      <Tooltip title={forth} describeChild>
        <span>
          <Button disabled={!names?.redo} onClick={() => redo.mutate()}>
            Redo
          </Button>
        </span>
      </Tooltip>
    </>
  );
}
