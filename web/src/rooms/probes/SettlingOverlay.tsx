import type { HealthView } from '@frustum/contract'
import { CartesianGrid, Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import { TICK } from '../../components/axis.ts'
import { day, fixed } from '../../components/format.ts'

/** How it settled in its standards, visit over visit: older ones paler. A sensor that ages comes down ever later. */
export function SettlingOverlay({ settling, timeZone }: { settling: HealthView['settling']; timeZone: string }) {
  const [first, last] = [settling[0], settling.at(-1)]
  if (!first || !last || settling.length < 2) return null
  const longest = Math.max(...settling.map((s) => s.trace.at(-1)?.[0] ?? 0))
  return (
    <section>
      <h2 className="text-base">
        Settling, share of the way still to go{' '}
        <span className="pl-2 text-sm font-normal soft">
          palest {day(first.at, timeZone)}, darkest {day(last.at, timeZone)}
        </span>
      </h2>
      <div className="h-48" role="img" aria-label="Settling traces of the last visits, laid over each other">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart margin={{ top: 10, right: 70, bottom: 4, left: 0 }}>
            <CartesianGrid vertical={false} stroke="var(--color-base-300)" />
            <XAxis
              dataKey="t"
              type="number"
              domain={[0, Math.min(longest, 90)]}
              allowDataOverflow
              tickFormatter={(t: number) => `${fixed(t, 0)} s`}
              tick={TICK}
              stroke="var(--line)"
            />
            <YAxis
              domain={[-0.05, 0.5]}
              allowDataOverflow
              ticks={[0, 0.1, 0.2, 0.3, 0.4, 0.5]}
              tickFormatter={(v: number) => `${fixed(100 * v, 0)} %`}
              tick={TICK}
              stroke="var(--line)"
              width={64}
            />
            {settling.map((s, i) => (
              <Line
                key={`${s.at} ${s.code}`}
                data={s.trace.map(([t, left]) => ({ t, left }))}
                dataKey="left"
                stroke="var(--color-primary)"
                strokeOpacity={0.2 + (0.8 * (i + 1)) / settling.length}
                strokeWidth={i === settling.length - 1 ? 2.4 : 1.4}
                dot={false}
                isAnimationActive={false}
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
      </div>
    </section>
  )
}
