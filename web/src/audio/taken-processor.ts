/** Takes hold of the processor that a module registers in the audio thread, before that module is run. */
export type ProcessorClass = new (options: AudioWorkletNodeOptions) => AudioWorkletProcessorLike;

interface AudioWorkletProcessorLike {
  readonly port: MessagePort;
  process(inputs: Float32Array[][], outputs: Float32Array[][], parameters: unknown): boolean;
}

type Register = (name: string, processor: ProcessorClass) => void;

const scope = globalThis as unknown as { registerProcessor: Register };

/** What was registered under which name, and the way to register. */
export const taken: { name: string; processor: ProcessorClass | null; register: Register } = {
  name: "",
  processor: null,
  register: scope.registerProcessor.bind(globalThis),
};

scope.registerProcessor = (name, processor) => {
  taken.name = name;
  taken.processor = processor;
};
