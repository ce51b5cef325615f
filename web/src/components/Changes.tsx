import type { ChangeView } from '@frustum/contract'
import { dayTime, text } from './format.ts'

interface ChangesProps {
  changes: readonly ChangeView[]
  timeZone: string
  busy: boolean
  onUndo: (id: number) => void
}

/** Who changed what, and why; what holds still can be undone. */
export function Changes({ changes, timeZone, busy, onUndo }: ChangesProps) {
  if (changes.length === 0) return null
  return (
    <section aria-label="Changes">
      <h2 className="pb-2 text-base">Changes</h2>
      <ul>
        {changes.map((c) => (
          <li key={c.id} className="flex flex-wrap items-center gap-x-4 border-b border-base-300 py-1">
            <span className="font-mono whitespace-nowrap soft">{dayTime(c.at, timeZone)}</span>
            <span className="flex-1 text-pretty">
              {text(c.what)}
              {c.why && <span className="soft"> “{c.why}”</span>}
            </span>
            <span className="whitespace-nowrap soft">{c.operator}</span>
            {c.undo && (
              <button type="button" className="slant slant-plain" disabled={busy} onClick={() => onUndo(c.id)}>
                Undo
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
