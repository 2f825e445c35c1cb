export type Kind = "decision" | "action" | "done" | "question" | "date" | "figure";

const SHAPES: Record<Kind, { className: string; shape: React.ReactNode }> = {
  // A settled stone.
  decision: {
    className: "text-lichen",
    shape: (
      <path
        d="M3.2 11.6c-.6-2.4 1-6.5 4.3-7.4 3-.8 6 1.6 6.3 4.6.3 2.7-1.3 4.2-4.6 4.2-2.8 0-5.5.6-6-1.400z"
        fill="currentColor"
      />
    ),
  },
  // A drop, outlined while open, filled when done.
  action: {
    className: "text-clay",
    shape: (
      <path
        d="M8 2.200c1.9 3 4.2 5 4.2 7.600a4.2 4.2 0 0 1-8.4 0C3.8 7.2 6.1 5.2 8 2.200z"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
      />
    ),
  },
  done: {
    className: "text-lichen",
    shape: (
      <path
        d="M8 2.200c1.9 3 4.2 5 4.2 7.600a4.2 4.2 0 0 1-8.4 0C3.8 7.2 6.1 5.2 8 2.200z"
        fill="currentColor"
        stroke="currentColor"
        strokeWidth="1.5"
      />
    ),
  },
  // A ripple: rings on water that go on widening.
  question: {
    className: "text-puddle",
    shape: (
      <g fill="none" stroke="currentColor">
        <ellipse cx="8" cy="6" rx="1.9" ry="0.9" strokeWidth="1.5" />
        <path
          d="M3.6 7.500c.6 1.9 2.3 2.7 4.4 2.700s3.8-.8 4.4-2.700M1 9c.8 3.2 3.5 4.8 7 4.800S14.2 12.2 15 9"
          strokeWidth="1.4"
        />
      </g>
    ),
  },
  date: {
    className: "text-faded",
    shape: <path d="M2 12h4l2-6 2 6h4" fill="none" stroke="currentColor" strokeWidth="1.5" />,
  },
  figure: {
    className: "text-faded",
    shape: (
      <path
        d="M4 2.500v11M4 4h5M4 7h3M4 10h5M4 13h3"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
      />
    ),
  },
};

/** A sign of our own set, told apart by shape before colour. */
export function Glyph({ kind, size = 16 }: { kind: Kind; size?: number }) {
  const { className, shape } = SHAPES[kind];
  return (
    <svg
      viewBox="0 0 16 16"
      width={size}
      height={size}
      aria-hidden
      className={`inline-block shrink-0 ${className}`}
    >
      {shape}
    </svg>
  );
}
