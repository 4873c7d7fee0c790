/** Time stretching at the same pitch, by Signalsmith Stretch (docs/accuracy.md: how it compares). */
import SignalsmithStretch, { type StretchNode } from "signalsmith-stretch";
import { LISTENS } from "./stretch-words";
import workletUrl from "./stretch-worklet.ts?worker&url";

/** From the audio clock's time `output` on, the sound goes on from `input` (both in seconds) at `rate` times its speed. */
export interface StretchStep {
  active: boolean;
  output: number;
  input: number;
  rate: number;
  semitones: number;
}

/** A way; so many frames of sound to come; or some of them, from a frame on. */
export type ToStretch =
  { steps: StretchStep[] } | { frames: number } | { at: number; channels: Float32Array<ArrayBuffer>[] };

const modules = new WeakMap<BaseAudioContext, Promise<void>>();

/** A node that plays what is put into it along a way. */
export async function makeStretch(context: BaseAudioContext): Promise<StretchNode> {
  const module = modules.get(context) ?? context.audioWorklet.addModule(workletUrl);
  modules.set(context, module);
  await module;
  // One input that nothing is connected to: without, what is not active fails in the package.
  const channels = { numberOfInputs: 1, numberOfOutputs: 1, outputChannelCount: [2] };
  const node = await SignalsmithStretch(context, channels);
  await new Promise<void>((done) =>
    node.port.addEventListener(
      "message",
      ({ data }: MessageEvent<unknown[]>) => data[0] === LISTENS && done(),
    ),
  );
  return node;
}

export function tell(node: StretchNode, message: ToStretch): void {
  node.port.postMessage(message, "channels" in message ? message.channels.map(({ buffer }) => buffer) : []);
}

export type { StretchNode };
