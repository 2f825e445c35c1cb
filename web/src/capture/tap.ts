import { RATE } from "./keep";

/** How loud the last tenth of a second was: 1 is full scale; `clipped` counts samples at it; `at`: when, by the audio thread's clock, in ms. */
export interface Level {
  rms: number;
  peak: number;
  clipped: number;
  at: number;
}

/** The audio thread of a capture. Its code is fetched once, as the capture begins: going on after a pause or a sleep needs no server. */
export class AudioThread {
  private constructor(private context: AudioContext) {}

  static async start(): Promise<AudioThread> {
    const context = new AudioContext({ sampleRate: RATE });
    await context.audioWorklet.addModule("/static/tap.js");
    return new AudioThread(context);
  }

  /** A tap on streams: samples a second at a time, and how loud they are. */
  async tap(
    all: MediaStream[],
    heard: (samples: Int16Array<ArrayBuffer>) => void,
    level: (level: Level) => void,
  ): Promise<Tap> {
    const streams = all.filter((stream) => stream.getAudioTracks().length);
    const context = this.context;
    const node = new AudioWorkletNode(context, "tap", {
      numberOfOutputs: 0,
      channelCount: streams.length,
      channelCountMode: "explicit",
      channelInterpretation: "discrete",
      processorOptions: { channels: streams.length },
    });
    const merger = context.createChannelMerger(streams.length);
    const sources = streams.map((stream) =>
      context.createMediaStreamSource(new MediaStream(stream.getAudioTracks())),
    );
    sources.forEach((source, index) => source.connect(merger, 0, index));
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
    return new Tap(context, [...sources, merger], node, ended);
  }

  stop() {
    return this.context.close();
  }
}

export class Tap {
  constructor(
    private context: AudioContext,
    private before: AudioNode[],
    private node: AudioWorkletNode,
    private ended: Promise<void>,
  ) {}

  /** Hands over the last, shorter chunk; the audio thread rests. */
  async end() {
    this.node.port.postMessage("end");
    // A context that the system has put to sleep never answers.
    await Promise.race([this.ended, new Promise((resolve) => setTimeout(resolve, 1000))]);
    for (const node of this.before) node.disconnect();
    // Not waited for: what comes next, another tap's resume, is done after it in any case.
    void this.context.suspend();
  }
}
