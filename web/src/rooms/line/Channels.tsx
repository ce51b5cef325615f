import { BYTE_ORDERS, type LineView, type RawView, REGISTER_TYPES, type RegisterTable } from '@frustum/contract'
import { kindOf } from '@frustum/core'
import { Choice } from '../../components/Choice.tsx'
import { CHANNEL_NAMES, NotReading, Reads, Small, Span, UnitChoice, what } from './channelParts.tsx'
import { type ChannelDraft, type Drawn, EMPTY_CHANNEL, type LineDraft, printedAddress } from './draft.ts'

const TABLES: readonly (readonly [RegisterTable, string])[] = [
  ['holding', 'Holding (3)'],
  ['input', 'Input (4)'],
  ['coil', 'Coil (1)'],
  ['discrete', 'Discrete (2)'],
]

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
            <legend className="sr-only">{CHANNEL_NAMES[name]}</legend>
            <div className="grid items-end gap-x-4 gap-y-2 sm:grid-cols-[8rem_1fr] lg:grid-cols-[8rem_1fr_14rem]">
              <p className="self-center">
                <strong>{CHANNEL_NAMES[name]}</strong>
                <span className="block text-sm soft">{what(name, line)}</span>
              </p>
              {elsewhere ? (
                <p className="self-center">Taken of {draft.elsewhere}.</p>
              ) : (
                <div className="flex flex-wrap items-end gap-2">
                  <Choice
                    bare
                    label={`${CHANNEL_NAMES[name]}, table`}
                    value={channel.table}
                    choices={TABLES}
                    onChoose={(table) => set(name, { table: table as RegisterTable })}
                  />
                  <Small
                    label={`${CHANNEL_NAMES[name]}, address`}
                    placeholder="address"
                    width="w-24"
                    value={channel.address}
                    onType={(address) => set(name, { address })}
                  />
                  {channel.table !== 'coil' && channel.table !== 'discrete' && (
                    <>
                      <Choice
                        bare
                        label={`${CHANNEL_NAMES[name]}, type`}
                        value={channel.type}
                        choices={REGISTER_TYPES.map((t) => [t, t])}
                        onChoose={(type) => set(name, { type: type as ChannelDraft['type'] })}
                      />
                      <Choice
                        bare
                        label={`${CHANNEL_NAMES[name]}, order of bytes`}
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
                    label={`${CHANNEL_NAMES[name]}, scale`}
                    width="w-20"
                    value={channel.scale}
                    onType={(scale) => set(name, { scale })}
                  />
                  <UnitChoice name={name} line={line} value={channel.unit} onChoose={(unit) => set(name, { unit })} />
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
              <NotReading channel={channel} onChange={(change) => set(name, change)} />
            )}
          </fieldset>
        )
      })}
    </div>
  )
}

/** A further number of a device is mostly written as the one before. */
function likeOthers({ channels }: LineDraft): Partial<ChannelDraft> {
  const known = Object.values(channels).find((c) => c.address !== '')
  return known ? { table: known.table, type: known.type, order: known.order } : {}
}
