import { FINDABLE, type FieldView, type Findable, type FinderView } from '@frustum/contract'
import { ago } from '../../components/format.ts'

const NAMES: Record<Findable, string> = { value: 'Value', signal: 'Signal', temperature: 'Temperature' }

interface FieldTreeProps {
  finder: FinderView
  offered: readonly Findable[]
  onTake: (name: Findable, field: FieldView) => void
  onTime: (field: FieldView) => void
}

/** What devices send, by topic and field: what matches the display first. */
export function FieldTree({ finder, offered, onTake, onTime }: FieldTreeProps) {
  const fits = finder.fields.filter((f) => f.fits.length > 0)
  const others = finder.fields.filter((f) => f.fits.length === 0)
  const looks = finder.looks.filter((l) => Object.keys(l.typed).length > 0).length
  return (
    <div>
      {fits.length > 0 && (
        <section aria-label="Matches the display" className="border-t border-base-300 py-2">
          <p className="py-1 font-bold">
            {fits.length === 1 ? 'One field matches' : `${fits.length} fields match`} the display
            {looks > 1 ? ` at ${looks} readings` : ''}.
          </p>
          <ul>
            {fits.map((field) => (
              <Line key={keyOf(field)} field={field} offered={offered} onTake={onTake} onTime={onTime} />
            ))}
          </ul>
        </section>
      )}
      {others.length > 0 && (
        <details open={fits.length === 0} className="border-t border-base-300 py-2">
          <summary className="min-h-11 w-fit cursor-pointer content-center font-bold">
            {fits.length === 0 ? 'All fields' : 'Other fields'}
          </summary>
          {grouped(others).map(([topic, fields]) => (
            <div key={topic} className="py-1">
              {topic && <p className="font-mono font-bold break-all">{topic}</p>}
              <ul className={topic ? 'pl-4' : ''}>
                {fields.map((field) => (
                  <Line key={keyOf(field)} field={field} offered={offered} under onTake={onTake} onTime={onTime} />
                ))}
              </ul>
            </div>
          ))}
        </details>
      )}
    </div>
  )
}

const keyOf = ({ group, note, name }: FieldView) => `${group} ${note} ${name}`

function grouped(fields: readonly FieldView[]): [topic: string, fields: FieldView[]][] {
  const groups = new Map<string, FieldView[]>()
  for (const field of fields) groups.set(field.group, [...(groups.get(field.group) ?? []), field])
  return [...groups]
}

function Line({
  field,
  offered,
  under = false,
  onTake,
  onTime,
}: {
  field: FieldView
  offered: readonly Findable[]
  under?: boolean
  onTake: FieldTreeProps['onTake']
  onTime: FieldTreeProps['onTime']
}) {
  const { group, name: title, note, raw, at, retained, fits, channel, asTime } = field
  const names = fits.length > 0 ? offered.filter((name) => fits.includes(name)) : asTime ? [] : offered
  return (
    <li className="grid items-center gap-x-4 border-t border-base-300 py-1 sm:grid-cols-[1fr_9rem_auto]">
      <span className="break-all">
        {!under && group && <span className="font-mono soft">{group} </span>}
        <strong className="font-mono">{title}</strong>{' '}
        <span className="text-sm soft">
          {note}
          {channel.scale === 1 ? '' : ` × ${channel.scale}`}, {retained ? 'retained by the broker' : ago(at)}
        </span>
      </span>
      <span className="font-mono break-all">
        {raw} <span className="soft">{channel.unit}</span>
      </span>
      <span className="flex flex-wrap gap-2">
        {FINDABLE.filter((name) => names.includes(name)).map((name) => (
          <button
            key={name}
            type="button"
            className={fits.includes(name) ? 'slant slant-strong' : 'min-h-11 underline underline-offset-4'}
            onClick={() => onTake(name, field)}
          >
            {NAMES[name]}
          </button>
        ))}
        {asTime && (
          <button type="button" className="min-h-11 underline underline-offset-4" onClick={() => onTime(field)}>
            Time
          </button>
        )}
      </span>
    </li>
  )
}
