/** The bar at the top: rooms as divider cards, work that goes on, finding, undo, and how everything looks. */
import { Box, Button, IconButton, InputBase, Menu, MenuItem, Tooltip } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { NavLink, useLocation, useNavigate, useSearchParams } from "react-router";
import { useRedo, useUndo } from "../api/changes";
import { isOpen } from "../api/jobs";
import { jobsQuery, undoQuery } from "../api/queries";
import { rememberedShelf } from "../pages/shelf/use-shelf-query";
import { useSettings } from "../settings";
import { FIGURES, NAMES } from "../theme";
import { Guide } from "./guide";
import { keyOf } from "./key-map";
import { KEYS } from "./keys";
import { ROOMS } from "./use-global-keys";
import { WorkTray } from "./work-tray";

/** The divider cards of the record crate, what goes on in the background, and undo. */
export function TopBar({ heard, onHelp }: { heard: boolean; onHelp: () => void }) {
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
        bgcolor: theme.inks.bar,
        borderBottom: `2px solid ${theme.inks.ink}`,
        flex: "none",
      })}
    >
      <Logo />
      <Rooms />
      <Box sx={{ flex: 1 }} />
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, height: 48 }}>
        {heard ? (
          <WorkTray />
        ) : (
          <Box role="alert" sx={{ color: "error.main", fontWeight: 600, fontSize: "0.8rem" }}>
            The server does not answer; trying again…
          </Box>
        )}
        <FindTrack />
        <UndoButtons />
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
        fontSize: "1.45rem",
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
    <Box component="nav" aria-label="Rooms" sx={{ display: "flex", gap: "2px", pl: 1.5 }}>
      {ROOMS.map((room, i) => (
        <Tooltip key={room.path} title={`Alt ${i + 1}`}>
          <Box
            component={NavLink}
            to={room.path === "/shelf" ? rememberedShelf() : room.path}
            sx={(theme) => ({
              px: 1.8,
              pt: 1,
              pb: 0.9,
              fontSize: "0.84rem",
              lineHeight: 1.4,
              textDecoration: "none",
              color: theme.inks.faint,
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
                sx={{ color: "error.main", fontFamily: FIGURES, fontSize: "0.75rem", ml: 0.8 }}
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
function FindTrack() {
  const navigate = useNavigate();
  const onShelf = useLocation().pathname === "/shelf";
  const [params] = useSearchParams();
  const [text, setText] = useState("");
  const input = useRef<HTMLInputElement>(null);
  useHotkeys(
    keyOf(KEYS.everywhere.find),
    () => {
      const target = onShelf ? document.getElementById("shelf-search") : input.current;
      target?.focus();
    },
    { preventDefault: true, useKey: true },
  );
  if (onShelf) return null;
  const go = (event: React.FormEvent) => {
    event.preventDefault();
    const next = new URLSearchParams(params);
    next.set("q", text);
    void navigate(`/shelf?${next.toString()}`);
    setText("");
  };
  return (
    <Box
      component="form"
      role="search"
      onSubmit={go}
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
        value={text}
        onChange={(e) => setText(e.target.value)}
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

function UndoButtons() {
  const names = useQuery(undoQuery).data;
  const undo = useUndo();
  const redo = useRedo();
  return (
    <>
      <Tooltip title={names?.undo ? `Undo: ${names.undo} (Ctrl Z)` : "Nothing to undo"}>
        <span>
          <Button disabled={!names?.undo} onClick={() => undo.mutate(undefined)}>
            Undo
          </Button>
        </span>
      </Tooltip>
      <Tooltip title={names?.redo ? `Redo: ${names.redo} (Ctrl ⇧ Z)` : "Nothing to redo"}>
        <span>
          <Button disabled={!names?.redo} onClick={() => redo.mutate(undefined)}>
            Redo
          </Button>
        </span>
      </Tooltip>
    </>
  );
}

function LookMenu({ onHelp }: { onHelp: () => void }) {
  const { theme, size, setTheme, setSize } = useSettings();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [guide, setGuide] = useState(false);
  const choose = (act: () => void) => () => {
    act();
    setAnchor(null);
  };
  return (
    <>
      <Tooltip title="Type size, daylight or booth, keys">
        <IconButton
          aria-label="Look and help"
          onClick={(e) => setAnchor(e.currentTarget)}
          sx={{
            fontFamily: NAMES,
            fontSize: "0.95rem",
            fontWeight: 700,
            color: "text.primary",
            borderRadius: "4px",
          }}
        >
          Aa
        </IconButton>
      </Tooltip>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem onClick={choose(() => setSize(size === "normal" ? "large" : "normal"))}>
          {size === "normal" ? "Large type, for two metres" : "Normal type"}
        </MenuItem>
        <MenuItem onClick={choose(() => setTheme(theme === "paper" ? "booth" : "paper"))}>
          {theme === "paper" ? "Booth: dark" : "Paper: daylight"}
        </MenuItem>
        <MenuItem onClick={choose(() => setGuide(true))}>Guide</MenuItem>
        <MenuItem onClick={choose(onHelp)}>Keys (?)</MenuItem>
      </Menu>
      {guide && <Guide onClose={() => setGuide(false)} />}
    </>
  );
}
