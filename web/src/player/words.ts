/** The few words of the player in the languages that a stick can ask for. */
export type Word = "Play" | "Stop" | "Cue here" | "Loop" | "Leave the loop" | "Find" | "Lists";

const SAID: Record<string, Record<Word, string>> = {
  Deutsch: {
    Play: "Spielen",
    Stop: "Halt",
    "Cue here": "Marke hier",
    Loop: "Schleife",
    "Leave the loop": "Schleife verlassen",
    Find: "Suchen",
    Lists: "Listen",
  },
  Français: {
    Play: "Jouer",
    Stop: "Arrêter",
    "Cue here": "Repère ici",
    Loop: "Boucle",
    "Leave the loop": "Quitter la boucle",
    Find: "Chercher",
    Lists: "Listes",
  },
  Español: {
    Play: "Tocar",
    Stop: "Parar",
    "Cue here": "Marca aquí",
    Loop: "Bucle",
    "Leave the loop": "Salir del bucle",
    Find: "Buscar",
    Lists: "Listas",
  },
  Italiano: {
    Play: "Suona",
    Stop: "Ferma",
    "Cue here": "Segno qui",
    Loop: "Giro",
    "Leave the loop": "Esci dal giro",
    Find: "Cerca",
    Lists: "Liste",
  },
};

export const say = (word: Word, language: string | undefined): string => SAID[language ?? ""]?.[word] ?? word;
