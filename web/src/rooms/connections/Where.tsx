import type { ProtocolForm } from '@frustum/contract'
import { FormFields } from '../bench/FormFields.tsx'
import { fieldTexts, type Line, type LineForm, NEW, put } from './lineForm.ts'
import { SendsItself } from './SendsItself.tsx'

interface WhereProps {
  line: Line
  form: LineForm
  protocol: ProtocolForm
}

/** The connection of the device, and where it is on it. */
export function Where({ line, form, protocol }: WhereProps) {
  const isNew = form.watch('connection') === NEW
  const advanced = protocol.settings.filter((field) => field.advanced)
  const choose = (key: string) => {
    const chosen = line.protocols.find((p) => p.key === key)
    if (!chosen) return
    for (const values of [
      fieldTexts(chosen.settings, {}),
      fieldTexts(chosen.address, {}),
      fieldTexts(chosen.mapping.options, {}),
    ])
      for (const [path, texts] of Object.entries(values))
        put(form, path, { ...(form.getValues(path) as unknown as object), ...(texts as object) })
  }
  return (
    <section aria-labelledby="where" className="border-b border-base-300 py-5">
      <h2 id="where" className="pb-3 text-lg font-bold">
        1. Device
      </h2>
      <FormFields
        form={form}
        close
        fields={[
          {
            key: 'connection',
            label: 'Connection',
            kind: 'choice',
            usual: NEW,
            optional: true,
            choices: [
              ...line.connections.map((c) => ({
                value: String(c.id),
                label: `${c.name} (${nameOf(line, c.protocol)})`,
              })),
              { value: NEW, label: 'New connection' },
            ],
          },
        ]}
      />
      {isNew && (
        <label className="block pb-6">
          <span className="block font-bold">Protocol</span>
          <select
            className="min-h-12 w-96 max-w-full border border-[color:var(--line)] bg-base-100 px-3 text-lg"
            {...form.register('protocol', { onChange: (e) => choose(e.target.value) })}
          >
            {line.protocols.map((p) => (
              <option key={p.key} value={p.key}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
      )}
      {isNew && <FormFields form={form} close fields={protocol.settings.filter((field) => !field.advanced)} />}
      <FormFields
        form={form}
        close
        fields={[
          ...protocol.address,
          ...(isNew
            ? [
                {
                  key: 'name',
                  label: 'Name',
                  kind: 'text' as const,
                  optional: true,
                  hint: 'Leave blank to use the address.',
                },
              ]
            : []),
        ]}
      />
      {isNew && advanced.length > 0 && (
        <details className="pb-3">
          <summary className="min-h-11 w-fit cursor-pointer content-center underline underline-offset-4">
            More settings
          </summary>
          <FormFields form={form} close fields={advanced} />
        </details>
      )}
      {protocol.ownAddress && <SendsItself line={line} />}
      {line.device.others.length > 0 && (
        <p className="max-w-prose soft">Also used by {line.device.others.join(', ')}. Changes apply to all of them.</p>
      )}
    </section>
  )
}

const nameOf = (line: Line, protocol: string) => line.protocols.find((p) => p.key === protocol)?.name ?? protocol
