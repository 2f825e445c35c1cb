// Runs on the audio thread: gathers samples into chunks of one second, 16 bit, channels interleaved, and hands each on.
// What is not yet a whole second is handed on when asked to end, so that nothing said before a pause is lost.
class Tap extends AudioWorkletProcessor {
  constructor({ processorOptions }) {
    super();
    this.channels = processorOptions.channels;
    this.chunk = new Int16Array(sampleRate * this.channels);
    this.filled = 0;
    this.peak = 0;
    this.power = 0;
    this.clipped = 0;
    this.over = false;
    this.quanta = 0;
    this.port.onmessage = ({ data }) => {
      if (data === "end") {
        this.hand(true);
        this.over = true;
      }
    };
  }

  hand(last) {
    const samples = this.chunk.slice(0, this.filled);
    this.filled = 0;
    this.port.postMessage({ samples, last }, [samples.buffer]);
  }

  process([input]) {
    if (this.over) return false;
    const length = input[0]?.length ?? 128;
    for (let index = 0; index < length; index++) {
      for (let channel = 0; channel < this.channels; channel++) {
        const value = Math.max(-1, Math.min(1, input[channel]?.[index] ?? 0));
        const size = Math.abs(value);
        if (size > this.peak) this.peak = size;
        if (size >= 0.999) this.clipped++;
        this.power += value * value;
        this.chunk[this.filled++] = Math.round(value * 32767);
      }
      if (this.filled === this.chunk.length) this.hand(false);
    }
    // Ten times a second: how loud it is, and when that was by this thread's clock, which a busy page does not hold up.
    if (++this.quanta * 128 >= sampleRate / 10) {
      const rms = Math.sqrt(this.power / (this.quanta * length * this.channels));
      this.port.postMessage({
        level: { rms, peak: this.peak, clipped: this.clipped, at: Date.now() },
      });
      this.quanta = this.peak = this.power = this.clipped = 0;
    }
    return true;
  }
}
registerProcessor("tap", Tap);
