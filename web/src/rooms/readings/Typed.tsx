import type { SeriesView, TypedView } from '@frustum/contract'
import { useState } from 'react'
import { For } from '../../components/For.tsx'
import { asRead, dayTime, fixed } from '../../components/format.ts'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'
import { useTakeBackMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

const USUAL_REASONS = ['Typed wrongly', 'Another display', 'The sensor was out of the water']

/** What was typed on the way round: a number that was none is taken back here. */
export function Typed({
  series,
  timeZone,
  onChanged,
}: {
  series: SeriesView
  timeZone: string
  onChanged: () => void
}) {
  const { operator } = useAppSelector(actorOf)
  const [takeBack] = useTakeBackMutation()
  const [asked, setAsked] = useState<TypedView | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const { unit, decimals, of } = asRead(series)
  if (series.typed.length === 0) return null
  const shown = ({ value }: TypedView) => `${fixed(of(value), decimals)} ${unit}`
  const take = async ({ at }: TypedView, reason: string) => {
    setAsked(null)
    const { error } = await takeBack({ position: series.position, operator, readAt: at, reason })
    if (!error) setProblem(null)
    else {
      const { message, hint } = problemOf(error)
      setProblem([message, hint].filter(Boolean).join(' '))
    }
    onChanged()
  }
  return (
    <section aria-label="Typed" className="pt-4">
      <h2 className="pb-1 text-base soft">Typed</h2>
      <ul className="max-w-2xl">
        {series.typed.map((one) => (
          <li
            key={one.at}
            className="flex min-h-12 flex-wrap items-center gap-x-3 border-b border-base-300 py-0.5 text-pretty"
          >
            <span className="w-32 soft">{dayTime(one.at, timeZone)}</span>
            <span className={`w-24 font-mono ${one.takenBack ? 'line-through soft' : ''}`}>{shown(one)}</span>
            {one.takenBack ? (
              <span className="text-sm soft">
                taken back by {one.takenBack.by}, {dayTime(one.takenBack.at, timeZone)}: {one.takenBack.reason}
              </span>
            ) : (
              <For needs="operator">
                <button
                  type="button"
                  className="no-print ml-auto min-h-11 px-2 underline underline-offset-4"
                  aria-label={`Take back ${shown(one)}`}
                  onClick={() => setAsked(one)}
                >
                  Take it back
                </button>
              </For>
            )}
          </li>
        ))}
      </ul>
      <p role="alert" className="min-h-6 text-sm text-error">
        {problem}
      </p>
      {asked && (
        <ReasonDialog
          title={`Take ${shown(asked)} back?`}
          explain="It stays in this list, struck out with your reason. No figure, alarm or forecast counts it, nor what stood beside it."
          usual={USUAL_REASONS}
          confirm="Take it back"
          onClose={() => setAsked(null)}
          onConfirm={(reason) => void take(asked, reason)}
        />
      )}
    </section>
  )
}
