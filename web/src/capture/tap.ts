import { RATE } from "./keep";

/** How loud the last tenth of a second was: 1 is full scale; `clipped` counts samples at it. */
export interface Level {
  rms: number;
  peak: number;
  clipped: number;
}
/** A tap on streams: samples a second at a time, and how loud they are. `end` hands over the last, shorter chunk. */
export class Tap {
  private constructor(
    private context: AudioContext,
    private node: AudioWorkletNode,
    private ended: Promise<void>,
  ) {}

  static async on(
    all: MediaStream[],
    heard: (samples: Int16Array<ArrayBuffer>) => void,
    level: (level: Level) => void,
  ): Promise<Tap> {
    const streams = all.filter((stream) => stream.getAudioTracks().length);
    const context = new AudioContext({ sampleRate: RATE });
    await context.audioWorklet.addModule("/static/tap.js");
    const node = new AudioWorkletNode(context, "tap", {
      numberOfOutputs: 0,
      channelCount: streams.length,
      channelCountMode: "explicit",
      channelInterpretation: "discrete",
      processorOptions: { channels: streams.length },
    });
    const merger = context.createChannelMerger(streams.length);
    streams.forEach((stream, index) =>
      context
        .createMediaStreamSource(new MediaStream(stream.getAudioTracks()))
        .connect(merger, 0, index),
    );
    const ended = new Promise<void>((resolve) => {
      node.port.onmessage = ({
        data,
      }: MessageEvent<{ samples?: Int16Array<ArrayBuffer>; last?: boolean; level?: Level }>) => {
        if (data.level) level(data.level);
        if (data.samples?.length) heard(data.samples);
        if (data.last) resolve();
      };
    });
    merger.connect(node);
    await context.resume();
    return new Tap(context, node, ended);
  }

  async end() {
    this.node.port.postMessage("end");
    // A context that the system has put to sleep never answers.
    await Promise.race([this.ended, new Promise((resolve) => setTimeout(resolve, 1000))]);
    await this.context.close();
  }
}
