/** The rooms and what all of them share. */
import { Box, GlobalStyles } from "@mui/material";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { useServerEvents } from "./api/events";
import { KeySheet } from "./components/key-sheet";
import { MessageProvider } from "./components/messages";
import { TopBar } from "./components/top-bar";
import { useSayFailures } from "./components/use-say-failures";
import { useGlobalKeys } from "./components/use-global-keys";
import { ArrivalsPage } from "./pages/arrivals/arrivals-page";
import { CratesPage } from "./pages/crates/crates-page";
import { ExchangePage } from "./pages/exchange/exchange-page";
import { LogbookPage } from "./pages/logbook/logbook-page";
import { SetsPage } from "./pages/sets/sets-page";
import { ShelfPage } from "./pages/shelf/shelf-page";
import { SticksPage } from "./pages/sticks/sticks-page";
import { TwinsPage } from "./pages/twins/twins-page";
import { WorkbenchPage } from "./pages/workbench/workbench-page";
import { SettingsProvider, useSettings } from "./settings";
import { pageStyles } from "./page-styles";
import { makeTheme } from "./theme";

const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: 1, refetchOnWindowFocus: false } },
});

export function App() {
  return (
    <SettingsProvider>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Themed />
        </BrowserRouter>
      </QueryClientProvider>
    </SettingsProvider>
  );
}

function Themed() {
  const { theme, size } = useSettings();
  const made = useMemo(() => makeTheme(theme), [theme]);
  return (
    <ThemeProvider theme={made}>
      <GlobalStyles styles={pageStyles(made, size)} />
      <MessageProvider>
        <Rooms />
      </MessageProvider>
    </ThemeProvider>
  );
}

/** A file that is let go where nothing takes it must not be opened in Vinyl's place. */
function useNoStrayDrops(): void {
  useEffect(() => {
    const stay = (event: DragEvent) => {
      if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
    };
    window.addEventListener("dragover", stay);
    window.addEventListener("drop", stay);
    return () => {
      window.removeEventListener("dragover", stay);
      window.removeEventListener("drop", stay);
    };
  }, []);
}

function Rooms() {
  const heard = useServerEvents();
  const [keySheet, setKeySheet] = useState(false);
  useGlobalKeys(() => setKeySheet((open) => !open));
  useNoStrayDrops();
  useSayFailures();
  return (
    <Box sx={{ height: "100vh", display: "flex", flexDirection: "column" }}>
      <TopBar heard={heard} onHelp={() => setKeySheet(true)} />
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <Routes>
          <Route path="/arrivals" element={<ArrivalsPage />} />
          <Route path="/shelf" element={<ShelfPage />} />
          <Route path="/workbench/:id?" element={<WorkbenchPage />} />
          <Route path="/crates/:id?" element={<CratesPage />} />
          <Route path="/twins" element={<TwinsPage />} />
          <Route path="/sets" element={<SetsPage />} />
          <Route path="/logbook" element={<LogbookPage />} />
          <Route path="/exchange" element={<ExchangePage />} />
          <Route path="/sticks" element={<SticksPage />} />
          <Route path="*" element={<Navigate to="/arrivals" replace />} />
        </Routes>
      </Box>
      {keySheet && <KeySheet onClose={() => setKeySheet(false)} />}
    </Box>
  );
}
