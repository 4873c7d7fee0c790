/** What is used of the package, which brings no types. */
declare module "signalsmith-stretch" {
  export interface StretchNode extends AudioWorkletNode {
    schedule(change: { active?: boolean; semitones?: number }): Promise<unknown>;
    latency(): Promise<number>;
  }
  export default function SignalsmithStretch(
    context: BaseAudioContext,
    options?: AudioWorkletNodeOptions,
  ): Promise<StretchNode>;
}
