/** What tests of components need around them. */
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { MessageProvider } from "./components/messages";
import { SettingsProvider } from "./settings";
import { makeTheme } from "./theme";

export function App({ children }: { children: ReactNode }) {
  const [queries] = useState(() => new QueryClient({ defaultOptions: { queries: { retry: false } } }));
  return (
    <QueryClientProvider client={queries}>
      <ThemeProvider theme={makeTheme("paper")}>
        <SettingsProvider>
          <MessageProvider>{children}</MessageProvider>
        </SettingsProvider>
      </ThemeProvider>
    </QueryClientProvider>
  );
}
