import { ShieldAlert } from 'lucide-react'
import type { ReactNode } from 'react'

/** A hazard in plain words. Local codes and licensed practice come first, always. */
export function Caution({ children }: { children: ReactNode }) {
  return (
    <p className="my-2 flex gap-3 border-l-4 border-accent bg-[color:var(--brass-tint)] px-4 py-3">
      <ShieldAlert className="mt-0.5 size-5 shrink-0 text-warning" aria-hidden="true" />
      <span>{children} Your site's rules, the maker's sheets and local codes come first.</span>
    </p>
  )
}
