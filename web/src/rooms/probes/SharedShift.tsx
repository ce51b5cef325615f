import type { SharedReference } from '@frustum/core'
import { Bar, CartesianGrid, ComposedChart, ErrorBar, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import { TICK } from '../../components/axis.ts'
import { day, fixed, signed } from '../../components/format.ts'

/** By how much the zeros of a body moved together from visit to visit: that is the reference's share. */
export function SharedShift({
  shared,
  position,
  timeZone,
}: {
  shared: SharedReference
  position: string
  timeZone: string
}) {
  const data = shared.visits.map((v) => ({
    at: day(v.at, timeZone),
    common: v.common,
    bar: v.commonUncertainty,
    own: v.own.find((o) => o.electrode === position)?.shift ?? null,
  }))
  const rate = shared.rates.find((r) => r.electrode === position)
  return (
    <section>
      <h2 className="flex flex-wrap items-baseline justify-between gap-x-4 text-base">
        <span>
          Shift on the body, mV{' '}
          <span className="text-sm font-normal soft">
            plum: all electrodes together, the reference; brass: this one’s own
          </span>
        </span>
        {rate && (
          <span className="text-sm font-normal soft">
            its own {signed(30 * rate.rate, 1)} ± {fixed(30 * rate.uncertainty, 1)} mV a month
          </span>
        )}
      </h2>
      <div
        className="h-44"
        role="img"
        aria-label="Shift shared by all electrodes of the body, and this one’s own, by visit"
      >
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={data} margin={{ top: 10, right: 70, bottom: 4, left: 0 }}>
            <CartesianGrid vertical={false} stroke="var(--color-base-300)" />
            <XAxis dataKey="at" tick={TICK} stroke="var(--line)" minTickGap={24} />
            <YAxis tick={TICK} stroke="var(--line)" width={64} tickFormatter={(v: number) => fixed(v, 0)} />
            <ReferenceLine y={0} stroke="var(--line)" />
            <Bar dataKey="common" fill="var(--color-primary)" isAnimationActive={false}>
              <ErrorBar dataKey="bar" width={0} stroke="var(--color-base-content)" />
            </Bar>
            <Bar dataKey="own" fill="var(--color-accent)" isAnimationActive={false} />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
    </section>
  )
}
