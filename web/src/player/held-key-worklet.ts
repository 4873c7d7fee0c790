/** Holds the key while the tempo slides: what plays faster and higher is brought down again. Two taps of a delay line
 * that drift and cross-fade (as in Dattorro, 1997, "Effect design, part 2"). */
declare const sampleRate: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, processor: new () => AudioWorkletProcessor): void;

const WINDOW_S = 0.06;
const LINE_S = 0.2;

class HeldKey extends AudioWorkletProcessor {
  private readonly lines: Float32Array[] = [];
  private readonly length = Math.ceil(LINE_S * sampleRate);
  private at = 0;
  private phase = 0;
  private ratio = 1;

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<number>) => (this.ratio = data);
  }

  process([input]: Float32Array[][], [output]: Float32Array[][]): boolean {
    const count = output?.[0]?.length ?? 0;
    const step = (1 - this.ratio) / (WINDOW_S * sampleRate);
    output?.forEach((out, channel) => {
      const line = (this.lines[channel] ??= new Float32Array(this.length));
      for (let i = 0; i < count; i++) {
        const now = this.at + i;
        line[now % this.length] = input?.[channel]?.[i] ?? input?.[0]?.[i] ?? 0;
        const phase = wrapped(this.phase + i * step);
        out[i] = this.tap(line, now, phase) + this.tap(line, now, wrapped(phase + 0.5));
      }
    });
    this.at = (this.at + count) % this.length;
    this.phase = wrapped(this.phase + count * step);
    return true;
  }

  /** The sound of a while ago, loudest in the middle of its drift. */
  private tap(line: Float32Array, now: number, phase: number): number {
    const back = now + this.length - phase * WINDOW_S * sampleRate;
    const whole = Math.floor(back);
    const [one, next] = [line[whole % this.length] ?? 0, line[(whole + 1) % this.length] ?? 0];
    return (one + (next - one) * (back - whole)) * Math.sin(Math.PI * phase) ** 2;
  }
}

const wrapped = (phase: number): number => phase - Math.floor(phase);

registerProcessor("held-key", HeldKey);
