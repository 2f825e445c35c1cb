export type Kind = "decision" | "action" | "done" | "question" | "date" | "figure";

const SHAPES: Record<Kind, { className: string; shape: React.ReactNode }> = {
  // A settled stone.
  decision: { className: "text-lichen", shape: <path d="M3.2 11.6c-.6-2.4 1-6.5 4.3-7.4 3-.8 6 1.600 6.300 4.600.3 2.700-1.300 4.200-4.600 4.200-2.800 0-5.500.6-6-1.400z" fill="currentColor" /> },
  // A drop, outlined while open, filled when done.
  action: { className: "text-clay", shape: <path d="M8 2.200c1.900 3 4.200 5 4.200 7.600a4.200 4.200 0 0 1-8.400 0C3.800 7.200 6.100 5.200 8 2.200z" fill="none" stroke="currentColor" strokeWidth="1.500" /> },
  done: { className: "text-lichen", shape: <path d="M8 2.200c1.900 3 4.200 5 4.200 7.600a4.200 4.200 0 0 1-8.400 0C3.800 7.200 6.100 5.200 8 2.200z" fill="currentColor" stroke="currentColor" strokeWidth="1.500" /> },
  // A ripple.
  question: { className: "text-puddle", shape: <g fill="none" stroke="currentColor" strokeWidth="1.400"><ellipse cx="8" cy="8.500" rx="1.600" ry="1" /><ellipse cx="8" cy="8.500" rx="4.200" ry="2.700" /><path d="M1.300 8.500c0-2.600 3-4.400 6.700-4.400s6.700 1.800 6.700 4.400" /></g> },
  date: { className: "text-faded", shape: <path d="M2 12h4l2-6 2 6h4" fill="none" stroke="currentColor" strokeWidth="1.500" /> },
  figure: { className: "text-faded", shape: <path d="M4 2.500v11M4 4h5M4 7h3M4 10h5M4 13h3" fill="none" stroke="currentColor" strokeWidth="1.500" /> },
};

/** A sign of our own set, told apart by shape before colour. */
export function Glyph({ kind, size = 16 }: { kind: Kind; size?: number }) {
  const { className, shape } = SHAPES[kind];
  return <svg viewBox="0 0 16 16" width={size} height={size} aria-hidden className={`inline-block shrink-0 ${className}`}>{shape}</svg>;
}
