import { BAUD_RATES, isModbus, type LineView, PARITIES, PROTOCOLS, type Protocol } from '@frustum/contract'
import { Choice } from '../../components/Choice.tsx'
import { Field } from '../bench/Field.tsx'
import { type LineDraft, protocolOf } from './draft.ts'
import { Network } from './Network.tsx'
import { SendsItself } from './SendsItself.tsx'

interface WhereProps {
  line: LineView
  draft: LineDraft
  errors: Readonly<Record<string, string>>
  onChange: (change: Partial<LineDraft>) => void
}

/** What the server calls what is typed here. */
const ADDRESS_FIELDS: Readonly<Record<string, string>> = {
  unit: 'address.unit',
  topic: 'address.topic',
  pagePath: 'address.path',
}

/** Ports that stand there to begin with; elsewhere the usual one is meant by an empty field. */
const PORTS: Partial<Record<Protocol, string>> = { 'modbus-tcp': '502', 'modbus-rtu-tcp': '502' }

/** Over which bus or host the device is reached, and where it is on it. */
export function Where({ line, draft, errors, onChange }: WhereProps) {
  const protocol = protocolOf(line, draft)
  const serial = protocol === 'modbus-serial'
  const isNew = draft.connection === 'new'
  const text = (
    key: 'name' | 'host' | 'port' | 'path' | 'unit' | 'topic' | 'pagePath',
    label: string,
    more: { hint?: string; wide?: boolean } = {},
  ) => (
    <Field
      label={label}
      unit=""
      error={errors[key] ?? errors[ADDRESS_FIELDS[key] ?? '']}
      value={draft[key]}
      onChange={(e) => onChange({ [key]: e.target.value })}
      {...more}
    />
  )
  return (
    <section aria-labelledby="where" className="border-b border-base-300 py-5">
      <h2 id="where" className="pb-3 text-lg font-bold">
        1. Where it is
      </h2>
      <div className="flex flex-wrap gap-x-6">
        <Choice
          label="Connection"
          value={draft.connection}
          choices={[
            ...line.connections.map((c) => [String(c.id), `${c.name} (${PROTOCOLS[c.protocol]})`] as const),
            ['new', 'A new one'],
          ]}
          error={errors.connectionId}
          onChoose={(connection) => onChange({ connection })}
        />
        {draft.connection === 'new' && (
          <Choice
            label="Reached by"
            value={draft.protocol}
            choices={Object.entries(PROTOCOLS)}
            error={errors.protocol}
            onChoose={(chosen) => onChange({ protocol: chosen as Protocol, port: PORTS[chosen as Protocol] ?? '' })}
          />
        )}
      </div>
      {isNew && isModbus(protocol) && !serial && (
        <div className="flex flex-wrap gap-x-6">
          {text('host', 'Address or name', {
            wide: true,
            hint: 'As 192.168.1.40: it stands in the menu of the device.',
          })}
          {text('port', 'Port')}
        </div>
      )}
      {isNew && serial && (
        <div className="flex flex-wrap gap-x-6">
          <Field
            label="Serial port"
            unit=""
            wide
            error={errors.path}
            hint={line.ports.length > 0 ? `There are ${line.ports.join(', ')}.` : 'None was found on the server.'}
            suggestions={line.ports}
            value={draft.path}
            onChange={(e) => onChange({ path: e.target.value })}
          />
          <Choice
            label="Baud"
            value={draft.baud}
            choices={BAUD_RATES.map((b) => [String(b), String(b)])}
            onChoose={(baud) => onChange({ baud })}
          />
          <Choice
            label="Parity"
            value={draft.parity}
            choices={PARITIES.map((p) => [p, p])}
            onChoose={(parity) => onChange({ parity })}
          />
          <Choice
            label="Stop bits"
            value={draft.stopBits}
            choices={[
              ['1', '1'],
              ['2', '2'],
            ]}
            onChoose={(stopBits) => onChange({ stopBits })}
          />
        </div>
      )}
      {isNew && (protocol === 'mqtt' || protocol === 'http') && (
        <Network protocol={protocol} draft={draft} errors={errors} onChange={onChange} />
      )}
      <div className="flex flex-wrap gap-x-6">
        {isNew && text('name', 'What to call it', { wide: true, hint: 'As you like; else by its address.' })}
        {isModbus(protocol) && text('unit', 'Unit number', { hint: 'Empty: look for it.' })}
        {protocol === 'mqtt' &&
          text('topic', 'Topic of the device', { wide: true, hint: 'As tank/1, or tank/# to look. Empty: all.' })}
        {protocol === 'http' &&
          text('pagePath', 'Page of the device', { wide: true, hint: 'After the address, if there are several.' })}
      </div>
      {protocol === 'push' && <SendsItself line={line} />}
      {line.device.others.length > 0 && (
        <p className="max-w-prose soft">
          {line.device.name} reads {line.device.others.join(', ')} too: where it is holds for all of them.
        </p>
      )}
    </section>
  )
}
