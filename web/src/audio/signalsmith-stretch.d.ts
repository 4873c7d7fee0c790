/** What is used of the package, which brings no types. */
declare module "signalsmith-stretch" {
  export interface StretchNode extends AudioWorkletNode {
    addBuffers(channels: Float32Array[]): Promise<number>;
    dropBuffers(): Promise<unknown>;
    schedule(change: { active?: boolean; semitones?: number }): Promise<unknown>;
    latency(): Promise<number>;
  }
  export default function SignalsmithStretch(
    context: BaseAudioContext,
    options?: AudioWorkletNodeOptions,
  ): Promise<StretchNode>;
}
