/** How Vinyl looks, and choices that outlive the window. */
import { createContext, use, useCallback, useEffect, useMemo, useState, type ReactNode } from "react";
import type { Notation } from "./components/key-name";
import type { ThemeName, TypeSize } from "./theme";

interface Settings {
  theme: ThemeName;
  size: TypeSize;
  density: Density;
  notation: Notation;
  setTheme: (theme: ThemeName) => void;
  setSize: (size: TypeSize) => void;
  setDensity: (density: Density) => void;
  setNotation: (notation: Notation) => void;
}

/** How much room rows of tracks have. */
export type Density = "close" | "usual" | "roomy";

const SettingsContext = createContext<Settings | null>(null);

/** A choice that outlives the window. */
export function useRemembered<T>(name: string, initial: T): [T, (value: T) => void] {
  const key = `vinyl.${name}`;
  const [value, setValue] = useState<T>(() => {
    try {
      const stored = localStorage.getItem(key);
      return stored === null ? initial : (JSON.parse(stored) as T);
    } catch {
      return initial;
    }
  });
  const remember = useCallback(
    (next: T) => {
      setValue(next);
      localStorage.setItem(key, JSON.stringify(next));
    },
    [key],
  );
  return [value, remember];
}

/** The same, followed where another window chooses anew. */
function useFollowed<T>(name: string, initial: T): [T, (value: T) => void] {
  const [value, remember] = useRemembered(name, initial);
  useEffect(() => {
    const follow = (event: StorageEvent) => {
      if (event.key === `vinyl.${name}` && event.newValue) remember(JSON.parse(event.newValue) as T);
    };
    window.addEventListener("storage", follow);
    return () => window.removeEventListener("storage", follow);
  }, [name, remember]);
  return [value, remember];
}

export function SettingsProvider({ children }: { children: ReactNode }) {
  const [theme, setTheme] = useFollowed<ThemeName>("theme", "paper");
  const [size, setSize] = useFollowed<TypeSize>("size", "normal");
  const [density, setDensity] = useFollowed<Density>("density", "usual");
  const [notation, setNotation] = useFollowed<Notation>("notation", "flats");
  const value = useMemo(
    () => ({ theme, size, density, notation, setTheme, setSize, setDensity, setNotation }),
    [theme, size, density, notation, setTheme, setSize, setDensity, setNotation],
  );
  return <SettingsContext value={value}>{children}</SettingsContext>;
}

export function useSettings(): Settings {
  const settings = use(SettingsContext);
  if (!settings) throw new Error("useSettings outside of SettingsProvider");
  return settings;
}
