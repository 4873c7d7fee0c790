/** The two looks of Vinyl: paper for the day, booth for the night. */
import { createTheme, type Theme, type ThemeOptions } from "@mui/material/styles";

export type ThemeName = "paper" | "booth";
export type TypeSize = "normal" | "larger" | "large" | "largest";

export interface Inks {
  paper: string;
  panel: string;
  bar: string;
  tab: string;
  rule: string;
  ink: string;
  faint: string;
  now: string;
  chosen: string;
  chosenWash: string;
  sure: string;
  doubt: string;
  body: string;
  peak: string;
  onStrong: string;
}

const PAPER: Inks = {
  paper: "#f8f9f2",
  panel: "#e9ebe1",
  bar: "#d6ddcc",
  tab: "#c6d0b9",
  rule: "#b9c2ab",
  ink: "#14241d",
  faint: "#47554c",
  now: "#c2300d",
  chosen: "#5b3b92",
  chosenWash: "#e7e0f3",
  sure: "#1f6294",
  doubt: "#8f5c00",
  body: "#1f4636",
  peak: "#8fb39b",
  onStrong: "#ffffff",
};

const BOOTH: Inks = {
  paper: "#10181a",
  panel: "#172124",
  bar: "#1d2a2c",
  tab: "#263538",
  rule: "#3a4b4c",
  ink: "#eef1e6",
  faint: "#a3b1a6",
  now: "#ff7a59",
  chosen: "#b79cf0",
  chosenWash: "#2d2742",
  sure: "#7fbbe8",
  doubt: "#e6b04a",
  body: "#b9d8c2",
  peak: "#4d7461",
  onStrong: "#10181a",
};

export const INKS: Record<ThemeName, Inks> = { paper: PAPER, booth: BOOTH };

/** What has the letters that the fonts before it lack: Cyrillic and Greek, Hebrew, Arabic, Japanese, Chinese, Korean, emoji. */
const OTHER_SCRIPTS = [
  ...["", " Hebrew", " Arabic", " JP", " SC", " KR"].map((script) => `'Noto Sans${script} Variable'`),
  "'Noto Emoji Variable'",
].join(", ");
export const NAMES = `'Bricolage Grotesque Variable', ${OTHER_SCRIPTS}, sans-serif`;
export const TEXT = `'Instrument Sans Variable', ${OTHER_SCRIPTS}, sans-serif`;
export const FIGURES = `'IBM Plex Mono', ${OTHER_SCRIPTS}, monospace`;

/** Cue colours by name; each is also told apart by its sign. */
export function cueColour(name: string, inks: Inks): string {
  const colours: Record<string, string> = {
    vermilion: inks.now,
    violet: inks.chosen,
    blue: inks.sure,
    ochre: inks.doubt,
    green: inks.paper === BOOTH.paper ? "#79c79a" : "#2f7050",
    ink: inks.ink,
  };
  return colours[name] ?? inks.ink;
}

/** The colours as CSS variables, for plain style sheets. */
export function variables(inks: Inks): Record<string, string> {
  return {
    "--paper": inks.paper,
    "--panel": inks.panel,
    "--rule": inks.rule,
    "--ink": inks.ink,
    "--faint": inks.faint,
    "--now": inks.now,
    "--chosen": inks.chosen,
    "--chosen-wash": inks.chosenWash,
    "--doubt": inks.doubt,
    "--peak": inks.peak,
  };
}

declare module "@mui/material/styles" {
  interface Theme {
    inks: Inks;
  }
  interface ThemeOptions {
    inks?: Inks;
  }
}

/** Sizes of type: pixels a rem. */
export const TYPE_PX: Record<TypeSize, number> = { normal: 16, larger: 18, large: 20, largest: 24 };

export function makeTheme(name: ThemeName): Theme {
  const inks = INKS[name];
  return createTheme({
    inks,
    palette: {
      mode: name === "booth" ? "dark" : "light",
      primary: { main: inks.ink, contrastText: inks.paper },
      secondary: { main: inks.chosen, contrastText: inks.onStrong },
      error: { main: inks.now, contrastText: inks.onStrong },
      info: { main: inks.sure },
      warning: { main: inks.doubt },
      success: { main: inks.sure },
      background: { default: inks.paper, paper: inks.paper },
      text: { primary: inks.ink, secondary: inks.faint },
      divider: inks.rule,
    },
    typography: typography(inks),
    shape: { borderRadius: 3 },
    components: components(inks),
  });
}

function typography(inks: Inks): NonNullable<ThemeOptions["typography"]> {
  return {
    fontFamily: TEXT,
    fontSize: 13,
    htmlFontSize: 16,
    h1: {
      fontFamily: NAMES,
      fontWeight: 700,
      fontSize: "1.75rem",
      lineHeight: 1.15,
      letterSpacing: "-0.01em",
    },
    h2: { fontFamily: NAMES, fontWeight: 700, fontSize: "1.15rem", lineHeight: 1.2 },
    overline: {
      fontSize: "0.7rem",
      fontWeight: 600,
      textTransform: "none",
      letterSpacing: 0,
      lineHeight: 1.4,
      color: inks.faint,
    },
    button: { textTransform: "none", fontWeight: 600 },
  };
}

function components(inks: Inks): NonNullable<ThemeOptions["components"]> {
  return {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { variant: "outlined", size: "small", disableElevation: true },
      styleOverrides: {
        root: { minWidth: 0, whiteSpace: "nowrap", lineHeight: 1.5 },
        outlined: {
          background: inks.paper,
          borderColor: inks.rule,
          color: inks.ink,
          "&:hover": { background: inks.panel, borderColor: inks.ink },
        },
      },
    },
    MuiDialog: {
      defaultProps: { transitionDuration: 90 },
      styleOverrides: {
        // They hang from one height, so that what is fetched into them moves nothing from under the pointer.
        scrollPaper: { alignItems: "flex-start" },
        paper: {
          border: `2px solid ${inks.ink}`,
          backgroundImage: "none",
          marginTop: "9vh",
          maxHeight: "86vh",
        },
      },
    },
    MuiTooltip: { defaultProps: { enterDelay: 500, arrow: false } },
  };
}
