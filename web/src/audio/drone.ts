/** A chord or its root alone, held under whatever plays: to hear whether a key is right. */

export type Voice = "chord" | "root";

const MIDDLE_A = 69;
const TONICS = ["C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"];
const ALSO: Record<string, string> = { "F#": "Gb", "C#": "Db", "D#": "Eb", "G#": "Ab", "A#": "Bb" };
/** The lowest root: below it a small loudspeaker gives nothing. */
const LOWEST_NOTE = 45;
const GAIN = 0.09;
const FADE_S = 0.06;

/** The frequencies of a key's chord, such as "A minor", in a tuning so many cents off. */
export function chordHz(key: string, voice: Voice, cents = 0): number[] {
  const [tonic = "", mode] = key.split(" ");
  const place = TONICS.indexOf(ALSO[tonic] ?? tonic);
  if (place < 0) return [];
  const root = LOWEST_NOTE + ((place - (LOWEST_NOTE % 12) + 12) % 12);
  const third = mode === "minor" ? 3 : 4;
  const notes = voice === "root" ? [root, root + 12] : [root, root + third, root + 7, root + 12];
  return notes.map((note) => 440 * 2 ** ((note - MIDDLE_A + cents / 100) / 12));
}

/** Sounds until it is let go; another chord takes the place of the one before. */
class Drone {
  private context: AudioContext | null = null;
  private playing: { gain: GainNode; oscillators: OscillatorNode[] } | null = null;

  play(frequencies: readonly number[]): void {
    this.stop();
    if (!frequencies.length) return;
    const context = (this.context ??= new AudioContext());
    void context.resume();
    const gain = context.createGain();
    gain.gain.setValueAtTime(0, context.currentTime);
    gain.gain.linearRampToValueAtTime(GAIN, context.currentTime + FADE_S);
    gain.connect(context.destination);
    const oscillators = frequencies.map((frequency) => {
      const oscillator = new OscillatorNode(context, { type: "triangle", frequency });
      oscillator.connect(gain);
      oscillator.start();
      return oscillator;
    });
    this.playing = { gain, oscillators };
  }

  stop(): void {
    if (!this.playing || !this.context) return;
    const { gain, oscillators } = this.playing;
    const now = this.context.currentTime;
    gain.gain.setTargetAtTime(0, now, FADE_S / 3);
    for (const oscillator of oscillators) oscillator.stop(now + 2 * FADE_S);
    this.playing = null;
  }
}

export const drone = new Drone();
