// Records what the page sends to the loudspeaker, sample by sample, with the audio clock's frame numbers; and, each time
// the close-up moves, where it says that the sound is. Injected by the tests before the page's own scripts.
(() => {
  const source = `registerProcessor("recorder", class extends AudioWorkletProcessor {
    process(inputs) {
      const input = inputs[0][0];
      const right = inputs[0][1];
      if (input) this.port.postMessage({ frame: currentFrame, samples: input.slice(), right: (right ?? input).slice() });
      return true;
    }
  });`;
  const heard = (window.heard = { blocks: [], shown: [], context: null });
  const connect = AudioNode.prototype.connect;
  AudioNode.prototype.connect = function (target, ...rest) {
    if (target instanceof AudioDestinationNode && !heard.context) {
      const context = (heard.context = target.context);
      const url = URL.createObjectURL(new Blob([source], { type: "text/javascript" }));
      context.audioWorklet.addModule(url).then(() => {
        const recorder = new AudioWorkletNode(context, "recorder", { numberOfOutputs: 1 });
        recorder.port.onmessage = (event) => heard.blocks.push(event.data);
        connect.call(this, recorder);
        connect.call(recorder, target);
      });
    }
    return connect.call(this, target, ...rest);
  };
  const setAttribute = Element.prototype.setAttribute;
  Element.prototype.setAttribute = function (name, value) {
    const { context } = heard;
    if (context && name === "aria-valuenow") heard.shown.push([context.currentTime - (context.outputLatency || 0), Number(value)]);
    return setAttribute.call(this, name, value);
  };
  // The last seconds as one piece, for what has to be compared sample by sample.
  window.lastHeard = (seconds) => {
    const blocks = heard.blocks.slice(-Math.ceil((seconds * heard.context.sampleRate) / 128));
    return blocks.flatMap(({ samples }) => [...samples]);
  };
  window.onsets = (least, quiet_s) => {
    const found = [];
    let last = -Infinity;
    for (const { frame, samples } of heard.blocks) {
      for (let i = 0; i < samples.length; i++) {
        if (Math.abs(samples[i]) < least) continue;
        const time = (frame + i) / heard.context.sampleRate;
        if (time - last > quiet_s) found.push(time);
        last = time;
      }
    }
    return found;
  };
})();
