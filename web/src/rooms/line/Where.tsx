import { BAUD_RATES, type LineView, PARITIES, PROTOCOLS } from '@frustum/contract'
import { Field } from '../bench/Field.tsx'
import { Choice } from './Choice.tsx'
import type { LineDraft } from './draft.ts'

interface WhereProps {
  line: LineView
  draft: LineDraft
  errors: Readonly<Record<string, string>>
  onChange: (change: Partial<LineDraft>) => void
}

/** Over which bus or host the device is reached, and where it is on it. */
export function Where({ line, draft, errors, onChange }: WhereProps) {
  const serial = draft.protocol === 'modbus-serial'
  const text = (
    key: 'name' | 'host' | 'port' | 'path' | 'unit',
    label: string,
    more: { hint?: string; wide?: boolean } = {},
  ) => (
    <Field
      label={label}
      unit=""
      error={errors[key]}
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
            onChoose={(protocol) => onChange({ protocol: protocol as LineDraft['protocol'] })}
          />
        )}
      </div>
      {draft.connection === 'new' && !serial && (
        <div className="flex flex-wrap gap-x-6">
          {text('host', 'Address or name', {
            wide: true,
            hint: 'As 192.168.1.40: it stands in the menu of the device.',
          })}
          {text('port', 'Port')}
        </div>
      )}
      {draft.connection === 'new' && serial && (
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
      <div className="flex flex-wrap gap-x-6">
        {draft.connection === 'new' &&
          text('name', 'What to call it', { wide: true, hint: 'As you like; else by its address.' })}
        {text('unit', 'Unit number', { hint: 'Empty: look for it.' })}
      </div>
      {line.device.others.length > 0 && (
        <p className="max-w-prose soft">
          {line.device.name} reads {line.device.others.join(', ')} too: where it is holds for all of them.
        </p>
      )}
    </section>
  )
}
