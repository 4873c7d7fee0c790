/** What the stretcher in the audio thread says once it takes a way. */
export const LISTENS = "listens";
