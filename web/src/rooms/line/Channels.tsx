import { BYTE_ORDERS, type LineView, type RawView, REGISTER_TYPES, type RegisterTable } from '@frustum/contract'
import { kindOf } from '@frustum/core'
import { Choice } from './Choice.tsx'
import { type ChannelDraft, type Drawn, EMPTY_CHANNEL, type LineDraft, printedAddress } from './draft.ts'
import { withUnit } from './numbers.ts'

const TABLES: readonly (readonly [RegisterTable, string])[] = [
  ['holding', 'Holding (3)'],
  ['input', 'Input (4)'],
  ['coil', 'Coil (1)'],
  ['discrete', 'Discrete (2)'],
]

const NAMES: Record<Drawn, string> = {
  value: 'Value',
  signal: 'Signal',
  temperature: 'Temperature',
  glass: 'Glass',
  junction: 'Junction',
}

const ALWAYS = ['value', 'signal', 'temperature'] as const

interface ChannelsProps {
  line: LineView
  draft: LineDraft
  errors: Readonly<Record<string, string>>
  /** What came of reading it as it stands here. */
  raw: readonly RawView[]
  onChange: (change: Partial<LineDraft>) => void
}

/** Which registers are its value, its signal and its temperature, and what they read now. */
export function Channels({ line, draft, errors, raw, onChange }: ChannelsProps) {
  const set = (name: Drawn, change: Partial<ChannelDraft>) => {
    const before = draft.channels[name] ?? { ...EMPTY_CHANNEL, ...likeOthers(draft) }
    const printed = change.address === undefined ? null : printedAddress(change.address)
    const place = printed ? { table: printed.table, address: String(printed.address) } : {}
    onChange({
      channels: { ...draft.channels, [name]: { ...before, ...change, ...place } },
      ...(printed ? { countsFrom: '1' } : {}),
    })
  }
  // Only of glass, and of the junction beside it, do devices report resistances.
  const resists = kindOf(line.kind).fragile || draft.channels.glass || draft.channels.junction
  const rows: readonly Drawn[] = resists ? [...ALWAYS, 'glass', 'junction'] : ALWAYS
  return (
    <div>
      <div className="flex flex-wrap items-end gap-x-6">
        <Choice
          label="Addresses are counted from"
          value={draft.countsFrom}
          choices={[
            ['0', '0, as they go over the wire'],
            ['1', '1, as 40001 is the first'],
          ]}
          onChoose={(countsFrom) => onChange({ countsFrom: countsFrom === '1' ? '1' : '0' })}
        />
      </div>
      {rows.map((name) => {
        const channel = draft.channels[name] ?? EMPTY_CHANNEL
        const elsewhere = name === 'temperature' && draft.elsewhere !== ''
        return (
          <fieldset key={name} className="border-t border-base-300 py-3">
            <legend className="sr-only">{NAMES[name]}</legend>
            <div className="grid items-end gap-x-4 gap-y-2 sm:grid-cols-[8rem_1fr] lg:grid-cols-[8rem_1fr_14rem]">
              <p className="self-center">
                <strong>{NAMES[name]}</strong>
                <span className="block text-sm soft">{what(name, line)}</span>
              </p>
              {elsewhere ? (
                <p className="self-center">Taken of {draft.elsewhere}.</p>
              ) : (
                <div className="flex flex-wrap items-end gap-2">
                  <Choice
                    bare
                    label={`${NAMES[name]}, table`}
                    value={channel.table}
                    choices={TABLES}
                    onChoose={(table) => set(name, { table: table as RegisterTable })}
                  />
                  <Small
                    label={`${NAMES[name]}, address`}
                    placeholder="address"
                    width="w-24"
                    value={channel.address}
                    onType={(address) => set(name, { address })}
                  />
                  {channel.table !== 'coil' && channel.table !== 'discrete' && (
                    <>
                      <Choice
                        bare
                        label={`${NAMES[name]}, type`}
                        value={channel.type}
                        choices={REGISTER_TYPES.map((t) => [t, t])}
                        onChoose={(type) => set(name, { type: type as ChannelDraft['type'] })}
                      />
                      <Choice
                        bare
                        label={`${NAMES[name]}, order of bytes`}
                        value={channel.order}
                        choices={BYTE_ORDERS.map((o) => [o, o])}
                        onChoose={(order) => set(name, { order: order as ChannelDraft['order'] })}
                      />
                    </>
                  )}
                  <span className="pb-2" aria-hidden="true">
                    ×
                  </span>
                  <Small
                    label={`${NAMES[name]}, scale`}
                    width="w-20"
                    value={channel.scale}
                    onType={(scale) => set(name, { scale })}
                  />
                  <Choice
                    bare
                    label={`${NAMES[name]}, unit`}
                    value={channel.unit}
                    choices={[
                      ['', line.units[name][0] ?? 'as it is'],
                      ...line.units[name].slice(1).map((u) => [u, u] as const),
                      ...(name === 'value' || name === 'signal' ? [['mA', 'mA, a current'] as const] : []),
                    ]}
                    onChoose={(unit) => set(name, { unit })}
                  />
                </div>
              )}
              <Reads raw={raw.find((r) => r.channel === name)} />
            </div>
            {errors[name] && (
              <p role="alert" className="text-sm text-error">
                {errors[name]}
              </p>
            )}
            {channel.unit === 'mA' && !elsewhere && (
              <Span channel={channel} line={line} onChange={(change) => set(name, change)} />
            )}
            {channel.address.trim() !== '' && !elsewhere && (
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
                    onType={(offset) => set(name, { offset })}
                  />
                  <Small label="Lowest" shown width="w-24" value={channel.low} onType={(low) => set(name, { low })} />
                  <Small
                    label="Highest"
                    shown
                    width="w-24"
                    value={channel.high}
                    onType={(high) => set(name, { high })}
                  />
                  <Small
                    label="No reading: 9999, 0x8000"
                    shown
                    width="w-56"
                    value={channel.none}
                    onType={(none) => set(name, { none })}
                  />
                  {channel.type === 'bit' && (
                    <Small label="Bit" shown width="w-20" value={channel.bit} onType={(bit) => set(name, { bit })} />
                  )}
                </div>
              </details>
            )}
          </fieldset>
        )
      })}
      {line.thermometers.length > 0 && (
        <Choice
          label="Its temperature is measured"
          value={draft.elsewhere}
          choices={[
            ['', 'by this device, or by nobody'],
            ...line.thermometers.map((code) => [code, `at ${code}`] as const),
          ]}
          onChoose={(elsewhere) => onChange({ elsewhere })}
        />
      )}
    </div>
  )
}

/** A further number of a device is mostly written as the one before. */
function likeOthers({ channels }: LineDraft): Partial<ChannelDraft> {
  const known = Object.values(channels).find((c) => c.address !== '')
  return known ? { table: known.table, type: known.type, order: known.order } : {}
}

const what = (name: Drawn, { quantity, units }: LineView): string =>
  name === 'value'
    ? `${quantity}, as it shows`
    : name === 'signal'
      ? `of the sensor, ${units.signal[0]}`
      : (units[name][0] ?? '')

function Reads({ raw }: { raw: RawView | undefined }) {
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

function Span({
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
