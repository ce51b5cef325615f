import { TZDate } from '@date-fns/tz'
import { format } from 'date-fns'
import { Choice } from '../../components/Choice.tsx'
import { now, zoneOfSite } from '../../store/clock.ts'

const PATTERN = "yyyy-MM-dd'T'HH:mm"

interface WhenProps {
  /** Null for now. */
  at: number | null
  onChange: (at: number | null) => void
}

/** When the displays were read: now, or when the sample of a laboratory was taken; by the site's own clock. */
export function When({ at, onChange }: WhenProps) {
  const written = (ms: number) => format(new TZDate(ms, zoneOfSite()), PATTERN)
  const read = (text: string) => {
    const [year = 0, month = 1, day = 1, hour = 0, minute = 0] = text.split(/\D/).map(Number)
    const ms = new TZDate(year, month - 1, day, hour, minute, zoneOfSite()).getTime()
    return Number.isFinite(ms) ? ms : null
  }
  return (
    <div className="flex flex-wrap gap-x-4">
      <Choice
        label="Read"
        value={at === null ? 'now' : 'earlier'}
        choices={[
          ['now', 'now'],
          ['earlier', 'earlier'],
        ]}
        onChoose={(when) => onChange(when === 'now' ? null : now())}
      />
      {at !== null && (
        <label className="block">
          <span className="block font-bold">At</span>
          <input
            type="datetime-local"
            className="h-12 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
            defaultValue={written(at)}
            max={written(now())}
            onChange={(e) => {
              const next = read(e.target.value)
              if (next !== null) onChange(next)
            }}
          />
        </label>
      )}
    </div>
  )
}
