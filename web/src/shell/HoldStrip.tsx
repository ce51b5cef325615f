import { useState } from 'react'
import { toast } from 'sonner'
import { clock, duration } from '../components/format.ts'
import { useHoldsQuery, useReleaseHoldMutation, useSiteQuery } from '../store/api.ts'
import { useNow } from '../store/clock.ts'
import { useMay } from '../store/me.ts'
import { actorOf } from '../store/person.ts'
import { problemOf } from '../store/request.ts'
import { useAppSelector } from '../store/store.ts'

const LOOK_EVERY_MS = 10_000
/** After so long a hold was likely forgotten, ms (common practice, no source). */
const LONG_MS = 45 * 60_000

/** Outputs that are held, in every room: as long as they are, nothing doses there. */
export function HoldStrip() {
  const { data: holds = [] } = useHoldsQuery(undefined, { pollingInterval: LOOK_EVERY_MS, refetchOnFocus: true })
  const { data: site } = useSiteQuery()
  const [release, { isLoading }] = useReleaseHoldMutation()
  const [refused, setRefused] = useState<number | null>(null)
  const { operator } = useAppSelector(actorOf)
  const may = useMay('operator')
  const now = useNow(30_000)
  if (holds.length === 0) return null
  const go = async (id: number, byHand: boolean) => {
    const { error } = await release({ id: String(id), operator, byHand })
    if (!error) {
      setRefused(null)
      return
    }
    const { message, detail, hint } = problemOf(error)
    setRefused(id)
    toast.error(message, { description: [detail, hint].filter(Boolean).join(' ') })
  }
  return (
    <div className="no-print">
      {holds.map(({ id, position, since, by, problem }) => {
        const long = now - since > LONG_MS
        const failed = problem !== null || refused === id
        return (
          <div
            key={id}
            role={long ? 'alert' : 'status'}
            className={`flex flex-wrap items-center gap-x-4 gap-y-1 border-b px-6 ${
              long || failed ? 'border-warning bg-warning/15' : 'border-base-300 bg-base-200'
            }`}
          >
            <span>
              The outputs of <strong>{position}</strong> are held since {clock(since, site?.timeZone ?? 'UTC')} ({by})
              {long && <strong>, for {duration((now - since) / 60_000)}: nothing doses there meanwhile</strong>}.
              {problem && ` ${problem}`}
            </span>
            {may && (
              <>
                <button
                  type="button"
                  className={long || failed ? 'slant my-1' : 'min-h-11 underline underline-offset-4'}
                  disabled={isLoading}
                  onClick={() => void go(id, false)}
                >
                  Let them go
                </button>
                {failed && (
                  <button type="button" className="slant slant-plain" onClick={() => void go(id, true)}>
                    Done at the device
                  </button>
                )}
              </>
            )}
          </div>
        )
      })}
    </div>
  )
}
