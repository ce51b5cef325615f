import type { SensorState } from '@frustum/core'

const SHAPES: Record<SensorState, { path: string; tone: string; word: string }> = {
  holding: { path: 'M5 4 H15 L18 17 H2 Z', tone: 'text-success', word: 'in tolerance' },
  drifting: { path: 'M8 4 H19 L13 17 H1 Z', tone: 'text-warning', word: 'drifting' },
  suspect: { path: 'M10 2 L18 7 L15 18 H5 L2 7 Z', tone: 'text-warning', word: 'suspect' },
  'out soon': { path: 'M2 4 H12 L18 10 L12 17 H2 Z', tone: 'text-warning', word: 'out soon' },
  due: { path: 'M2 4 H18 L15 17 H5 Z', tone: 'text-warning', word: 'due' },
  overdue: { path: 'M10 3 L19 18 H1 Z', tone: 'text-error', word: 'overdue' },
  out: {
    path: 'M2 2 H18 V18 H2 Z M5.5 4 L10 8.5 L14.5 4 L16 5.5 L11.5 10 L16 14.5 L14.5 16 L10 11.5 L5.5 16 L4 14.5 L8.5 10 L4 5.5 Z',
    tone: 'text-error',
    word: 'out',
  },
  alarm: {
    path: 'M10 1 L19 10 L10 19 L1 10 Z M9 5 V11 H11 V5 Z M9 13 V15 H11 V13 Z',
    tone: 'text-error',
    word: 'alarm',
  },
  resting: { path: 'M2 5 H18 V9 H2 Z M2 12 H18 V16 H2 Z', tone: 'text-primary', word: 'visit open' },
  blind: { path: 'M2 9 H18 V12 H2 Z', tone: 'soft', word: 'no data' },
}

/** A sensor's state: always a shape and a word, colour only in support. */
export function StateMark({ state, large = false }: { state: SensorState; large?: boolean }) {
  const { path, tone, word } = SHAPES[state]
  return (
    <span className={`inline-flex items-center gap-2 font-bold ${tone} ${large ? 'text-lg' : ''}`}>
      <svg viewBox="0 0 20 20" className="size-4 shrink-0" aria-hidden="true">
        <path d={path} fill="currentColor" fillRule="evenodd" />
      </svg>
      {word}
    </span>
  )
}
