import type { VisitLive, VisitView } from '@frustum/contract'
import { text } from '../../components/format.ts'

/** The arithmetic as it happens: for who wants to see where the numbers come from. */
export function Arithmetic({ visit, live }: { visit: VisitView; live: VisitLive | null }) {
  const lines = live && live.arithmetic.length > 0 ? live.arithmetic : visit.arithmetic
  return (
    <aside
      aria-label="The arithmetic"
      className="space-y-5 bg-base-200 p-5 lg:w-64 lg:shrink-0 lg:border-l lg:border-base-300"
    >
      <h2 className="text-base soft">The arithmetic</h2>
      {lines.map((line) => (
        <section key={line.title} className="border-b border-base-300 pb-4 last:border-0">
          <h3 className="text-sm font-normal soft">{line.title}</h3>
          {line.value && <p className="text-2xl font-bold">{text(line.value)}</p>}
          <p className="text-pretty">{text(line.note)}</p>
        </section>
      ))}
      {visit.setting && (
        <section>
          <h3 className="text-sm font-normal soft">The device as noted</h3>
          <p className="text-pretty">{visit.setting}</p>
        </section>
      )}
    </aside>
  )
}
