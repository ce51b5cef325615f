import type { LineView, RawView } from '@frustum/contract'
import { Choice } from '../../components/Choice.tsx'
import type { ChannelDraft, Drawn, LineDraft } from './draft.ts'
import { withUnit } from './numbers.ts'

export const CHANNEL_NAMES: Record<Drawn, string> = {
  value: 'Value',
  signal: 'Signal',
  temperature: 'Temperature',
  glass: 'Glass',
  junction: 'Junction',
}

export const what = (name: Drawn, { quantity, units }: LineView): string =>
  name === 'value'
    ? `${quantity}, as it shows`
    : name === 'signal'
      ? `of the sensor, ${units.signal[0]}`
      : (units[name][0] ?? '')

export function Reads({ raw }: { raw: RawView | undefined }) {
  if (!raw) return <p className="self-center soft max-lg:hidden">not mapped</p>
  return (
    <p className="self-center">
      {raw.value === null ? (
        <strong className="text-warning">{raw.missing}</strong>
      ) : (
        <strong className="text-xl">{withUnit(raw.value, raw.unit)}</strong>
      )}
      <span className="block font-mono text-sm soft">{raw.raw}</span>
    </p>
  )
}

export function Span({
  channel,
  line,
  onChange,
}: {
  channel: ChannelDraft
  line: LineView
  onChange: (change: Partial<ChannelDraft>) => void
}) {
  return (
    <div className="flex flex-wrap items-end gap-4 pt-2">
      <Small label="4 mA stand for" shown width="w-24" value={channel.at4} onType={(at4) => onChange({ at4 })} />
      <Small label="20 mA stand for" shown width="w-24" value={channel.at20} onType={(at20) => onChange({ at20 })} />
      <Choice
        label="In"
        bare
        value={channel.spanUnit}
        choices={[['', line.units.value[0] ?? ''], ...line.units.value.slice(1).map((u) => [u, u] as const)]}
        onChoose={(spanUnit) => onChange({ spanUnit })}
      />
      <p className="max-w-prose text-sm soft">Below 3.6 and above 21 mA it is a fault and no reading (NAMUR NE 43).</p>
    </div>
  )
}

interface SmallProps {
  label: string
  value: string
  width: string
  placeholder?: string
  shown?: boolean
  onType: (text: string) => void
}

export function Small({ label, value, width, placeholder, shown = false, onType }: SmallProps) {
  return (
    <label className="block">
      <span className={shown ? 'block text-sm' : 'sr-only'}>{label}</span>
      <input
        className={`h-12 ${width} border border-[color:var(--line)] bg-base-100 px-3 text-lg`}
        autoComplete="off"
        placeholder={placeholder}
        value={value}
        onChange={(e) => onType(e.target.value)}
      />
    </label>
  )
}

/** In which unit a number comes, the one that is wanted first. */
export function UnitChoice({
  name,
  line,
  value,
  onChoose,
}: {
  name: Drawn
  line: LineView
  value: string
  onChoose: (unit: string) => void
}) {
  return (
    <Choice
      bare
      label={`${CHANNEL_NAMES[name]}, unit`}
      value={value}
      choices={[
        ['', line.units[name][0] ?? 'as it is'],
        ...line.units[name].slice(1).map((u) => [u, u] as const),
        ...(name === 'value' || name === 'signal' ? [['mA', 'mA, a current'] as const] : []),
      ]}
      onChoose={onChoose}
    />
  )
}

/** What is added to a number, within what it can be, and what is no reading. */
export function NotReading({
  channel,
  onChange,
}: {
  channel: ChannelDraft
  onChange: (change: Partial<ChannelDraft>) => void
}) {
  return (
    <details className="pt-1">
      <summary className="min-h-11 w-fit cursor-pointer content-center text-sm underline underline-offset-4">
        What it may be, and what is no reading
      </summary>
      <div className="flex flex-wrap items-end gap-4 pb-2">
        <Small
          label="Added to it"
          shown
          width="w-24"
          value={channel.offset}
          onType={(offset) => onChange({ offset })}
        />
        <Small label="Lowest" shown width="w-24" value={channel.low} onType={(low) => onChange({ low })} />
        <Small label="Highest" shown width="w-24" value={channel.high} onType={(high) => onChange({ high })} />
        <Small
          label="No reading: 9999, 0x8000"
          shown
          width="w-56"
          value={channel.none}
          onType={(none) => onChange({ none })}
        />
        {channel.type === 'bit' && (
          <Small label="Bit" shown width="w-20" value={channel.bit} onType={(bit) => onChange({ bit })} />
        )}
      </div>
    </details>
  )
}

/** Whose temperature is taken, where the device has none of its own. */
export function Thermometer({
  line,
  draft,
  onChange,
}: {
  line: LineView
  draft: LineDraft
  onChange: (change: Partial<LineDraft>) => void
}) {
  if (line.thermometers.length === 0) return null
  return (
    <Choice
      label="Its temperature is measured"
      value={draft.elsewhere}
      choices={[
        ['', 'by this device, or by nobody'],
        ...line.thermometers.map((code) => [code, `at ${code}`] as const),
      ]}
      onChoose={(elsewhere) => onChange({ elsewhere })}
    />
  )
}
