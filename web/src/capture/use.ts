import { useEffect, useState } from "react";
import { engine } from "./engine";
import { open, stopAll } from "./sources";
import { useStore } from "./store";
import { AudioThread, type Level } from "./tap";

/** The capture of this browser, kept up to date. */
export const useCapture = () => useStore(engine);

export interface Listening {
  level: Level | null;
  refused: string | null;
  devices: MediaDeviceInfo[];
}

/** Listens to a microphone without keeping anything, to show how loud it is. Off while a capture of this browser runs. */
export function useMicrophone(microphone: string, listening: boolean): Listening {
  const [state, setState] = useState<Listening>({ level: null, refused: null, devices: [] });
  useEffect(() => {
    if (!listening) return;
    let over = false;
    let end: (() => void) | undefined;
    void (async () => {
      try {
        const { streams } = await open({ microphone, beside: "nothing" });
        const thread = await AudioThread.start();
        await thread.tap(
          streams,
          () => undefined,
          (level) => setState((old) => ({ ...old, level })),
        );
        end = () => {
          void thread.stop();
          stopAll(streams);
        };
        if (over) return end();
        const devices = await navigator.mediaDevices.enumerateDevices();
        setState({
          level: null,
          refused: null,
          devices: devices.filter((one) => one.kind === "audioinput" && one.deviceId !== ""),
        });
      } catch (error) {
        if (!over) setState((old) => ({ ...old, level: null, refused: (error as Error).name }));
      }
    })();
    return () => {
      over = true;
      end?.();
    };
  }, [microphone, listening]);
  return state;
}
