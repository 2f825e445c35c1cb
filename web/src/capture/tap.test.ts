import { expect, it } from "vitest";
import source from "../../public/tap.js?raw";

interface Message {
  samples?: Int16Array;
  last?: boolean;
  level?: { rms: number; peak: number; clipped: number };
}
interface Processor {
  port: { onmessage: (event: { data: string }) => void };
  process: (inputs: Float32Array[][]) => boolean;
}

/** The code of the audio thread with a rate of its own, and what it says. */
function tap(sampleRate: number, channels: number) {
  const said: Message[] = [];
  class AudioWorkletProcessor {
    port = { postMessage: (message: Message) => said.push(message), onmessage: () => undefined };
  }
  let made!: new (options: object) => Processor;
  // In a scope of its own, as on the audio thread.
  // eslint-disable-next-line @typescript-eslint/no-implied-eval
  const run = new Function("AudioWorkletProcessor", "registerProcessor", "sampleRate", source) as (
    base: typeof AudioWorkletProcessor,
    register: (name: string, processor: typeof made) => void,
    rate: number,
  ) => void;
  run(AudioWorkletProcessor, (_, processor) => (made = processor), sampleRate);
  return { said, processor: new made({ processorOptions: { channels } }) };
}

const all = (said: Message[]) => said.flatMap((one) => [...(one.samples ?? [])]);

it("hands on every sample once and in order, a second at a time, the rest when it ends", () => {
  const { said, processor } = tap(1000, 2);
  const fed: number[] = [];
  for (let quantum = 0; quantum < 20; quantum++) {
    const left = Float32Array.from({ length: 128 }, (_, n) => ((quantum * 128 + n) % 2000) / 2000);
    const right = left.map((value) => value / 2);
    left.forEach((value, n) => fed.push(Math.round(value * 32767), Math.round(right[n]! * 32767)));
    expect(processor.process([[left, right]])).toBe(true);
  }
  expect(said.filter((one) => one.samples).map((one) => one.samples!.length)).toEqual([2000, 2000]);
  processor.port.onmessage({ data: "end" });
  expect(all(said)).toEqual(fed);
  expect(said.filter((one) => one.last !== undefined).at(-1)?.last).toBe(true);
  // What comes after the end is off the record.
  expect(processor.process([[new Float32Array(128).fill(0.5)]])).toBe(false);
  expect(all(said)).toEqual(fed);
});

it("keeps time where a device gives nothing, and clips what is too loud", () => {
  const { said, processor } = tap(1000, 1);
  processor.process([[]]);
  processor.process([[new Float32Array(128).fill(1.7)]]);
  processor.port.onmessage({ data: "end" });
  expect(all(said)).toEqual([...Array<number>(128).fill(0), ...Array<number>(128).fill(32767)]);
  expect(said.flatMap((one) => one.level ?? []).at(-1)).toEqual({
    rms: 1,
    peak: 1,
    clipped: 128,
    at: expect.any(Number) as number,
  });
});
