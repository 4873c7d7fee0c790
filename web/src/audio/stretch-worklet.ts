/** The stretcher of the package in the audio thread, which can be told a whole way through the sound at once: the
 * package's own schedule holds one change ahead, and a beatgrid has one each beat. */
import { taken, type ProcessorClass } from "./taken-processor";
// After what takes hold of it.
import "signalsmith-stretch";
import type { StretchStep, ToStretch } from "./stretch";
import { LISTENS } from "./stretch-words";

/** What is used of the package's processor, 1.3. */
interface Theirs {
  wasmReady: boolean;
  timeMap: StretchStep[];
  audioBuffers: Float32Array[][];
}

const Base = taken.processor as ProcessorClass;

class Stretch extends Base {
  private listens = false;

  override process(inputs: Float32Array[][], outputs: Float32Array[][], parameters: unknown): boolean {
    const theirs = this as unknown as Theirs;
    // The package listens once it is ready; what it does not know is for here.
    if (theirs.wasmReady && !this.listens && this.port.onmessage) this.listen(theirs);
    return super.process(inputs, outputs, parameters);
  }

  private listen(theirs: Theirs): void {
    const known = this.port.onmessage?.bind(this.port);
    this.listens = true;
    this.port.postMessage([LISTENS]);
    this.port.onmessage = (event: MessageEvent<ToStretch | unknown[]>) => {
      if (Array.isArray(event.data)) known?.(event);
      else take(theirs, event.data);
    };
  }
}

function take(theirs: Theirs, message: ToStretch): void {
  if ("frames" in message) {
    // One piece of memory for all: between two pieces the package loses its place.
    theirs.audioBuffers = [[new Float32Array(message.frames), new Float32Array(message.frames)]];
  } else if ("channels" in message) {
    message.channels.forEach((samples, side) => theirs.audioBuffers[0]?.[side]?.set(samples, message.at));
  } else {
    theirs.timeMap = message.steps.map((step) => ({ ...theirs.timeMap[0], ...step }));
  }
}

taken.register(taken.name, Stretch);
