import type { Track } from "./keep";

/** Beside the microphone: nothing, the sound of the computer (or of a tab of it), or its screen with the sound if it is shared. */
export type Beside = "nothing" | "computer" | "screen";
export interface Sources {
  microphone: string;
  beside: Beside;
}

export interface Opened {
  streams: MediaStream[];
  tracks: Track[];
  screen: MediaStream | null;
  beside: Beside;
}

/** Opens what is to be captured. Throws what the browser throws when it is refused or not there. */
export async function open({ microphone, beside }: Sources): Promise<Opened> {
  const room = await navigator.mediaDevices.getUserMedia({
    // The recogniser wants the room as it is; only the echo of the computer's own sound is taken out when that is captured beside it.
    audio: {
      ...(microphone ? { deviceId: { exact: microphone } } : {}),
      echoCancellation: beside !== "nothing",
      noiseSuppression: false,
      autoGainControl: true,
    },
  });
  if (beside === "nothing") return { streams: [room], tracks: ["room"], screen: null, beside };
  try {
    const screen = await navigator.mediaDevices.getDisplayMedia({
      video: true,
      audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
    });
    const sounds = screen.getAudioTracks().length > 0;
    if (!sounds && beside === "computer") {
      stopAll([screen]);
      throw new DOMException("no sound shared", "NoSoundShared");
    }
    return {
      streams: [room, screen],
      tracks: sounds ? ["room", "computer"] : ["room"],
      screen: beside === "screen" ? screen : null,
      beside,
    };
  } catch (error) {
    stopAll([room]);
    throw error;
  }
}

export const stopAll = (streams: MediaStream[]) =>
  streams.forEach((stream) => stream.getTracks().forEach((track) => track.stop()));
