import { type LineView, MESSAGE_FORMATS, type MessageFormat, type Protocol, type RawView } from '@frustum/contract'
import { kindOf } from '@frustum/core'
import { Choice } from '../../components/Choice.tsx'
import { CHANNEL_NAMES, NotReading, Reads, Small, Span, UnitChoice, what } from './channelParts.tsx'
import { type ChannelDraft, type Drawn, EMPTY_CHANNEL, EMPTY_STATUS, isPlaced, type LineDraft } from './draft.ts'

const FORMAT_NAMES: Record<MessageFormat, string> = {
  number: 'a bare number',
  json: 'JSON',
  senml: 'SenML',
  xml: 'XML',
  csv: 'CSV',
  line: 'line protocol',
}

/** What a field is called, by what messages are written in. */
const FIELD_HINTS: Record<MessageFormat, string> = {
  number: 'empty',
  json: '/water/ph',
  senml: 'ph',
  xml: '/status/ph',
  csv: 'heading',
  line: 'tank/ph',
}

/** Formats that nobody publishes or shows on a page. */
const SENT_ONLY: readonly MessageFormat[] = ['csv', 'line']

interface FieldsProps {
  line: LineView
  protocol: Protocol
  draft: LineDraft
  errors: Readonly<Record<string, string>>
  raw: readonly RawView[]
  onChange: (change: Partial<LineDraft>) => void
}

/** Which fields of its messages are its value, its signal and its temperature, and what they read now. */
export function Fields({ line, protocol, draft, errors, raw, onChange }: FieldsProps) {
  const { format } = draft
  const set = (name: Drawn, change: Partial<ChannelDraft>) =>
    onChange({ channels: { ...draft.channels, [name]: { ...EMPTY_CHANNEL, ...draft.channels[name], ...change } } })
  const resists = kindOf(line.kind).fragile || draft.channels.glass || draft.channels.junction
  const rows: readonly Drawn[] = resists
    ? ['value', 'signal', 'temperature', 'glass', 'junction']
    : ['value', 'signal', 'temperature']
  const formats = MESSAGE_FORMATS.filter((f) => protocol === 'push' || !SENT_ONLY.includes(f))
  return (
    <div>
      <div className="flex flex-wrap items-end gap-x-6">
        <Choice
          label="Its messages are"
          value={format}
          choices={formats.map((f) => [f, FORMAT_NAMES[f]])}
          onChoose={(chosen) => onChange({ format: chosen as MessageFormat })}
        />
        {format !== 'number' && format !== 'senml' && format !== 'line' && (
          <div className="pb-6">
            <Small
              label="Field of their time, if they carry one"
              shown
              width="w-64"
              value={draft.timeField}
              onType={(timeField) => onChange({ timeField })}
            />
          </div>
        )}
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
                  {protocol === 'mqtt' && (
                    <Small
                      label={`${CHANNEL_NAMES[name]}, topic`}
                      placeholder={draft.topic && !/[+#]/.test(draft.topic) ? draft.topic : 'topic'}
                      width="w-52"
                      value={channel.topic}
                      onType={(topic) => set(name, { topic })}
                    />
                  )}
                  {format !== 'number' && (
                    <Small
                      label={`${CHANNEL_NAMES[name]}, field`}
                      placeholder={FIELD_HINTS[format]}
                      width="w-44"
                      value={channel.field}
                      onType={(field) => set(name, { field })}
                    />
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
            {isPlaced(channel, protocol, format) && !elsewhere && (
              <NotReading channel={channel} onChange={(change) => set(name, change)} />
            )}
          </fieldset>
        )
      })}
      <Status protocol={protocol} draft={draft} onChange={onChange} />
    </div>
  )
}

/** Where it says that it is gone, or has a fault: of a broker its last will. */
function Status({
  protocol,
  draft: { status },
  onChange,
}: {
  protocol: Protocol
  draft: LineDraft
  onChange: FieldsProps['onChange']
}) {
  const set = (change: Partial<NonNullable<LineDraft['status']>>) =>
    onChange({ status: { ...EMPTY_STATUS, ...status, ...change } })
  return (
    <details className="border-t border-base-300 pt-2">
      <summary className="min-h-11 w-fit cursor-pointer content-center font-bold">
        {protocol === 'mqtt' ? 'How it says that it is gone (last will)' : 'How it says that it has a fault'}
      </summary>
      <div className="flex flex-wrap items-end gap-4 pb-3">
        {protocol === 'mqtt' && (
          <Small label="Topic" shown width="w-64" value={status?.topic ?? ''} onType={(topic) => set({ topic })} />
        )}
        <Small
          label={protocol === 'mqtt' ? 'Field; empty: the whole' : 'Field'}
          shown
          width="w-44"
          value={status?.field ?? ''}
          onType={(field) => set({ field })}
        />
        <Small
          label="It is blind while it says: offline, 0"
          shown
          width="w-64"
          value={status?.values ?? ''}
          onType={(values) => set({ values })}
        />
      </div>
    </details>
  )
}
