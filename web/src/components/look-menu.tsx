/** How everything looks: light, size of type, room of rows, how keys are written; and the ways to help. */
import { Divider, IconButton, ListSubheader, Menu, MenuItem, Tooltip } from "@mui/material";
import { useState } from "react";
import { useSettings, type Density } from "../settings";
import { NAMES, type ThemeName, type TypeSize } from "../theme";
import { Guide } from "./guide";
import { NOTATIONS, type Notation } from "./key-name";

const SIZES: Record<TypeSize, string> = {
  normal: "Normal type",
  larger: "Larger type",
  large: "Large type, for two metres",
  largest: "Largest type",
};
const THEMES: Record<ThemeName, string> = { paper: "Paper: daylight", booth: "Booth: dark" };
const DENSITIES: Record<Density, string> = { close: "Close rows", usual: "Usual rows", roomy: "Roomy rows" };

export function LookMenu({ onHelp }: { onHelp: () => void }) {
  const settings = useSettings();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [guide, setGuide] = useState(false);
  const choose = (act: () => void) => () => {
    act();
    setAnchor(null);
  };
  return (
    <>
      <Tooltip title="Type size, daylight or booth, rows, keys">
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
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { dense: true } }}
      >
        {choices(THEMES, settings.theme, settings.setTheme, choose)}
        <Divider />
        {choices(SIZES, settings.size, settings.setSize, choose)}
        <Divider />
        {choices(DENSITIES, settings.density, settings.setDensity, choose)}
        <ListSubheader sx={{ lineHeight: 2.2, bgcolor: "transparent" }}>Keys of tracks as</ListSubheader>
        {choices<Notation>(NOTATIONS, settings.notation, settings.setNotation, choose)}
        <Divider />
        <MenuItem onClick={choose(() => setGuide(true))}>Guide</MenuItem>
        <MenuItem onClick={choose(onHelp)}>Keys (?)</MenuItem>
      </Menu>
      {guide && <Guide onClose={() => setGuide(false)} />}
    </>
  );
}

/** One of several, as items of a menu. */
function choices<T extends string>(
  words: Record<T, string>,
  now: T,
  set: (value: T) => void,
  choose: (act: () => void) => () => void,
) {
  return (Object.keys(words) as T[]).map((value) => (
    <MenuItem
      key={value}
      role="menuitemradio"
      aria-checked={value === now}
      selected={value === now}
      onClick={choose(() => set(value))}
    >
      {words[value]}
    </MenuItem>
  ));
}
