import { CODES_FIRST } from '@frustum/core'
import { ShieldAlert } from 'lucide-react'

/** Hazards in plain words, once a visit. Local codes and licensed practice come first, always. */
export function Cautions({ cautions }: { cautions: readonly string[] }) {
  const own = cautions.filter((c) => c !== CODES_FIRST)
  if (own.length === 0) return null
  return (
    <div className="my-2 flex gap-3 border-l-4 border-accent bg-[color:var(--brass-tint)] px-4 py-3">
      <ShieldAlert className="mt-0.5 size-5 shrink-0 text-warning" aria-hidden="true" />
      <div className="space-y-1">
        {own.map((c) => (
          <p key={c}>{c}</p>
        ))}
        <p className="text-sm">{CODES_FIRST}</p>
      </div>
    </div>
  )
}
