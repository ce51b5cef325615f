import type { ProbeView } from '@frustum/contract'
import { CAUSE_WORDS, CAUSES, type Cause, type Feature, type Trouble } from '@frustum/core'
import { useState } from 'react'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { day, percent, plural, text } from '../../components/format.ts'
import { useAnswerTestMutation, useConfirmCauseMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

/** What is likely wrong, what speaks for and against it, the test that would tell, and the remedy. */
export function DiagnosisCard({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { ranked, tooLittle, next, tested, troubles } = probe.health
  const [first] = ranked
  if (!first) return null
  return (
    <section className="space-y-5" aria-label="Diagnosis">
      <div>
        <h2 className="pb-2 text-base soft">Likely</h2>
        {tooLittle && (
          <p className="pb-2 text-pretty">
            Too little is known to name one cause. What can be meant, the likelier first:
          </p>
        )}
        <ul className="space-y-1.5">
          {ranked.map((r) => (
            <li key={r.cause}>
              <details>
                <summary className="relative isolate flex min-h-11 cursor-pointer items-center justify-between gap-3 px-2">
                  <span
                    className="absolute inset-y-0 left-0 -z-10 bg-secondary"
                    style={{
                      width: `${Math.max(2, 100 * r.probability)}%`,
                      clipPath: 'polygon(0 0, 100% 0, calc(100% - 8px) 100%, 0 100%)',
                    }}
                  />
                  <span>{r.name}</span>
                  <span className="font-mono">{percent(r.probability)}</span>
                </summary>
                <div className="space-y-2 px-2 py-2 text-sm">
                  <Arguments title="Speaks for it" list={r.evidenceFor} />
                  <Arguments title="Speaks against it" list={r.evidenceAgainst} />
                  <p>
                    <span className="soft">Remedy. </span>
                    {r.remedy}
                  </p>
                </div>
              </details>
            </li>
          ))}
        </ul>
        {troubles.since !== null && !tooLittle && (
          <p className="pt-1 text-sm soft">Likeliest since the visit on {day(troubles.since, timeZone)}.</p>
        )}
        {tested.length > 0 && (
          <p className="pt-1 text-sm soft">{plural(tested.length, 'test')} on purpose counted in.</p>
        )}
      </div>
      {first.cause !== 'nothing' && !tooLittle && (
        <div>
          <h2 className="pb-1 text-base soft">What to do</h2>
          <p className="text-pretty">{first.remedy}</p>
        </div>
      )}
      {next && (
        <div>
          <h2 className="pb-1 text-base soft">Tell them apart</h2>
          <p className="text-pretty">
            {text(next.instruction)} <span className="soft">About {next.minutes} min.</span>
          </p>
          <For needs="operator">
            <Answers key={next.feature} position={probe.position} feature={next.feature} outcomes={next.outcomes} />
          </For>
        </div>
      )}
      <CameAndWent past={troubles.past} timeZone={timeZone} />
      <For needs="operator">
        <Confirmed probe={probe} timeZone={timeZone} />
      </For>
    </section>
  )
}

function CameAndWent({ past, timeZone }: { past: Trouble[]; timeZone: string }) {
  if (past.length === 0) return null
  return (
    <div>
      <h2 className="pb-1 text-base soft">Came and went</h2>
      <ul className="space-y-1">
        {past.map((t) => (
          <li key={`${t.cause} ${t.from}`} className="flex justify-between gap-3">
            <span>
              <span className="font-mono">
                {day(t.from, timeZone)}
                {t.until > t.from && ` to ${day(t.until, timeZone)}`}
              </span>{' '}
              {t.name}
            </span>
            <span className="font-mono">{percent(t.probability)}</span>
          </li>
        ))}
      </ul>
    </div>
  )
}

function Arguments({ title, list }: { title: string; list: { feature: Feature; text: string; because: string }[] }) {
  if (list.length === 0) return null
  return (
    <div>
      <p className="soft">{title}</p>
      <ul>
        {list.map((a) => (
          <li key={a.feature}>
            {a.text}: <span className="soft">{a.because}.</span>
          </li>
        ))}
      </ul>
    </div>
  )
}

interface AnswersProps {
  position: string
  feature: Feature
  outcomes: { answer: string; favours: string }[]
}

function Answers({ position, feature, outcomes }: AnswersProps) {
  const { operator } = useAppSelector(actorOf)
  const [answer, { isLoading }] = useAnswerTestMutation()
  const give = async (value: string) => {
    const { error } = await answer({ position, operator, feature, answer: value })
    if (error) toast.error(problemOf(error).message)
  }
  return (
    <ul className="space-y-2 pt-2">
      {outcomes.map((o) => (
        <li key={o.answer} className="flex items-center gap-3">
          <button
            type="button"
            className="slant slant-plain px-4"
            disabled={isLoading}
            onClick={() => void give(o.answer)}
          >
            {`${o.answer[0]?.toUpperCase()}${o.answer.slice(1)}`}
          </button>
          <span className="text-sm soft">speaks for {o.favours}</span>
        </li>
      ))}
    </ul>
  )
}

/** What it turned out to be, beside what was proposed: so that one sees how often the proposal is right. */
function Confirmed({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { operator } = useAppSelector(actorOf)
  const [confirm, { isLoading }] = useConfirmCauseMutation()
  const [cause, setCause] = useState<Cause | null>(null)
  const save = async () => {
    if (!cause) return
    const { error } = await confirm({ position: probe.position, operator, cause })
    if (error) toast.error(problemOf(error).message)
    else setCause(null)
  }
  return (
    <details>
      <summary className="min-h-11 cursor-pointer content-center soft">It turned out to be …</summary>
      <div className="flex flex-wrap items-center gap-3 pt-2">
        <select
          aria-label="The cause it turned out to be"
          className="h-11 max-w-full border border-[color:var(--line)] bg-base-100 px-2"
          value={cause ?? ''}
          onChange={(e) => setCause(CAUSES.find((c) => c === e.target.value) ?? null)}
        >
          <option value="">choose</option>
          {CAUSES.map((c) => (
            <option key={c} value={c}>
              {CAUSE_WORDS[c].name}
            </option>
          ))}
        </select>
        <button type="button" className="slant px-4" disabled={!cause || isLoading} onClick={() => void save()}>
          Confirm cause
        </button>
      </div>
      <ul className="pt-2 text-sm">
        {probe.health.confirmed.map((c) => (
          <li key={c.at}>
            <strong>{day(c.at, timeZone)}</strong> {c.name},{' '}
            {c.rank === 0 ? 'not proposed' : `proposed as number ${c.rank} with ${percent(c.probability)}`} (
            {c.operator})
          </li>
        ))}
      </ul>
    </details>
  )
}
