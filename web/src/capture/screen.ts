const EVERY = 1000; // milliseconds between looks
const WIDEST = 1600; // pixels: text on a slide stays legible
const LOOK = { width: 160, height: 90 };
const DIFFERENT = 24; // of 255, in any colour; less is the noise of scaling
const CHANGED = 0.004; // of the pixels: a typed line is more, a moving pointer is less

/** Looks at a shared screen once a second and hands on a still (JPEG) whenever it has changed since the last one. */
export class Looking {
  private video = document.createElement("video");
  private small = Object.assign(document.createElement("canvas"), LOOK).getContext("2d", {
    willReadFrequently: true,
  })!;
  private full = document.createElement("canvas");
  private last: Uint8ClampedArray | null = null;
  private timer: number;

  constructor(
    stream: MediaStream,
    private seen: (jpeg: ArrayBuffer) => void,
  ) {
    this.video.muted = true;
    this.video.srcObject = new MediaStream(stream.getVideoTracks());
    void this.video.play();
    this.timer = window.setInterval(() => this.look(), EVERY);
  }

  private look() {
    const { videoWidth, videoHeight } = this.video;
    if (!videoWidth) return;
    this.small.drawImage(this.video, 0, 0, LOOK.width, LOOK.height);
    const now = this.small.getImageData(0, 0, LOOK.width, LOOK.height).data;
    if (this.last && changed(this.last, now) < CHANGED) return;
    this.last = now;
    const scale = Math.min(1, WIDEST / videoWidth);
    this.full.width = Math.round(videoWidth * scale);
    this.full.height = Math.round(videoHeight * scale);
    this.full.getContext("2d")!.drawImage(this.video, 0, 0, this.full.width, this.full.height);
    this.full.toBlob(
      (blob) =>
        void blob?.arrayBuffer().then((jpeg) => {
          if (this.timer) this.seen(jpeg);
        }),
      "image/jpeg",
      0.75,
    );
  }

  /** From here on nothing is looked at, and nothing that was is handed on. */
  end() {
    window.clearInterval(this.timer);
    this.timer = 0;
    this.video.srcObject = null;
  }
}

/** The share of pixels (RGBA) that differ visibly. */
export function changed(before: Uint8ClampedArray, now: Uint8ClampedArray): number {
  let count = 0;
  for (let at = 0; at < now.length; at += 4) {
    if (
      Math.abs(before[at]! - now[at]!) > DIFFERENT ||
      Math.abs(before[at + 1]! - now[at + 1]!) > DIFFERENT ||
      Math.abs(before[at + 2]! - now[at + 2]!) > DIFFERENT
    )
      count++;
  }
  return count / (now.length / 4);
}
