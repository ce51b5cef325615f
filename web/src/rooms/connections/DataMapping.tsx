import {
  CHANNELS,
  type ChannelName,
  type LineView,
  type ProtocolField,
  type ProtocolForm,
  type RawView,
} from '@frustum/contract'
import { kindOf } from '@frustum/core'
import type { ReactNode } from 'react'
import { get } from 'react-hook-form'
import { text } from '../../components/format.ts'
import {
  asked,
  CHANNEL_FIELDS,
  expandShorthand,
  inRow,
  isPlaced,
  type LineForm,
  likeOthers,
  messageBelow,
} from './lineForm.ts'
import { withUnit } from './numbers.ts'

const ROW_NAMES: Record<ChannelName, string> = {
  value: 'Value',
  signal: 'Signal',
  temperature: 'Temperature',
  glass: 'Glass',
  junction: 'Junction',
}

interface DataMappingProps {
  line: LineView
  form: LineForm
  protocol: ProtocolForm
  /** What came of reading the device as the form has it. */
  raw: readonly RawView[]
}

/** Where the numbers of a sensor are in its device, and what they read now. */
export function DataMapping({ line, form, protocol, raw }: DataMappingProps) {
  const { options, status, parameter, hold } = protocol.mapping
  const values = form.watch()
  const isMapped = (name: ChannelName) => get(values, `mapping.${name}.at`) !== undefined
  // Only glass sensors, and the junctions in them, have resistances that devices report.
  const resists = kindOf(line.kind).fragile || isMapped('glass') || isMapped('junction')
  const rows = CHANNELS.filter((name) => resists || (name !== 'glass' && name !== 'junction'))
  return (
    <div>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2 pb-4">
        <Inputs form={form} fields={options} labelled />
      </div>
      {rows.map((name) => (
        <ChannelRow
          key={name}
          name={name}
          line={line}
          form={form}
          protocol={protocol}
          raw={raw.find((r) => r.channel === name)}
        />
      ))}
      {line.thermometers.length > 0 && (
        <div className="border-t border-base-300 py-3">
          <Labelled label="Temperature from">
            <select
              className="min-h-12 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
              {...form.register('mapping.temperature.position')}
            >
              <option value="">This device</option>
              {line.thermometers.map((code) => (
                <option key={code} value={code}>
                  {code}
                </option>
              ))}
            </select>
          </Labelled>
        </div>
      )}
      {(parameter || hold) && <Writing line={line} form={form} protocol={protocol} />}
      <details className="border-t border-base-300 pt-2">
        <summary className="min-h-11 w-fit cursor-pointer content-center font-bold">{status.title}</summary>
        <div className="flex flex-wrap items-end gap-4 pb-3">
          <Inputs form={form} row="mapping.status" name={status.title} fields={status.fields} labelled />
        </div>
        <Complaint form={form} path="mapping.status" />
      </details>
    </div>
  )
}

interface ChannelRowProps extends Omit<DataMappingProps, 'raw'> {
  name: ChannelName
  raw: RawView | undefined
}

function ChannelRow({ name, line, form, protocol, raw }: ChannelRowProps) {
  const { place } = protocol.mapping
  const row = `mapping.${name}`
  const values = form.watch()
  const elsewhere = name === 'temperature' ? String(get(values, 'mapping.temperature.position') ?? '') : ''
  const title = ROW_NAMES[name]
  const units = line.units[name]
  return (
    <fieldset className="border-t border-base-300 py-3">
      <legend className="sr-only">{title}</legend>
      <div className="grid items-end gap-x-4 gap-y-2 sm:grid-cols-[8rem_1fr] lg:grid-cols-[8rem_1fr_14rem]">
        <p className="self-center">
          <strong>{title}</strong>
          <span className="block text-sm soft">{name === 'value' ? line.quantity : units[0]}</span>
        </p>
        {elsewhere ? (
          <p className="self-center">Measured by {elsewhere}.</p>
        ) : (
          <div className="flex flex-wrap items-end gap-2">
            <Inputs
              form={form}
              row={row}
              name={title}
              fields={place.filter((field) => !field.advanced)}
              onType={() => !isPlaced(row, place, values) && likeOthers(form, name, protocol.mapping)}
            />
            <span className="pb-2" aria-hidden="true">
              ×
            </span>
            <Inputs form={form} row={row} name={title} fields={[CHANNEL_FIELDS.scale]} />
            <select
              aria-label={`${title}, unit`}
              className="min-h-12 border border-[color:var(--line)] bg-base-100 px-2"
              {...form.register(`${row}.unit`)}
            >
              <option value="">{units[0] || 'as it is'}</option>
              {units.slice(1).map((unit) => (
                <option key={unit}>{unit}</option>
              ))}
              {(name === 'value' || name === 'signal') && <option value="mA">mA, a current</option>}
            </select>
          </div>
        )}
        <NowReads raw={raw} />
      </div>
      <Complaint form={form} path={row} />
      {!elsewhere && get(values, `${row}.unit`) === 'mA' && (
        <div className="flex flex-wrap items-end gap-4 pt-2">
          <Inputs form={form} row={row} name={title} fields={[CHANNEL_FIELDS.at4, CHANNEL_FIELDS.at20]} labelled />
          <Labelled label="Unit">
            <select
              className="min-h-12 border border-[color:var(--line)] bg-base-100 px-2"
              {...form.register(`${row}.span.unit`)}
            >
              <option value="">{line.units.value[0]}</option>
              {line.units.value.slice(1).map((unit) => (
                <option key={unit}>{unit}</option>
              ))}
            </select>
          </Labelled>
          <p className="max-w-prose text-sm soft">Below 3.6 mA and above 21 mA is a fault (NAMUR NE 43).</p>
        </div>
      )}
      {!elsewhere && isPlaced(row, place, values) && (
        <details className="pt-1">
          <summary className="min-h-11 w-fit cursor-pointer content-center text-sm underline underline-offset-4">
            Offset and limits
          </summary>
          <div className="flex flex-wrap items-end gap-4 pb-2">
            <Inputs
              form={form}
              row={row}
              name={title}
              labelled
              fields={[
                CHANNEL_FIELDS.offset,
                CHANNEL_FIELDS.low,
                CHANNEL_FIELDS.high,
                CHANNEL_FIELDS.none,
                ...place.filter((field) => field.advanced),
              ]}
            />
          </div>
        </details>
      )}
    </fieldset>
  )
}

/** The parameters of the calibration in the device, and its outputs. */
function Writing({ line, form, protocol: { mapping } }: Omit<DataMappingProps, 'raw'>) {
  const { parameter, hold } = mapping
  const values = form.watch()
  const isMapped =
    parameter && line.parameters.some(({ key }) => isPlaced(`mapping.calibration.${key}`, parameter, values))
  return (
    <details className="border-t border-base-300 pt-2">
      <summary className="min-h-11 w-fit cursor-pointer content-center font-bold">Calibration and outputs</summary>
      <p className="max-w-prose pb-3 text-pretty soft">
        Frustum reads these numbers to notice changes. It writes only what you allow here, after showing it to you, and
        reads it back.
      </p>
      {parameter &&
        line.parameters.map(({ key, label, unit }) => (
          <Row key={key} title={label} note={unit}>
            <Inputs form={form} row={`mapping.calibration.${key}`} name={label} fields={parameter} />
            <Inputs
              form={form}
              row={`mapping.calibration.${key}`}
              name={label}
              fields={[CHANNEL_FIELDS.scale, CHANNEL_FIELDS.low, CHANNEL_FIELDS.high]}
              labelled
            />
          </Row>
        ))}
      {parameter && (
        <label className="flex min-h-11 items-center gap-3 py-2">
          <input
            type="checkbox"
            className="checkbox border-[color:var(--line)]"
            disabled={!isMapped}
            {...form.register('mapping.writes')}
          />
          Allow writing from the Bench
        </label>
      )}
      {hold && (
        <Row title="Outputs on hold" note="">
          <Inputs form={form} row="mapping.hold" name="Hold" fields={hold.filter(({ key }) => key.startsWith('at.'))} />
          <Inputs
            form={form}
            row="mapping.hold"
            name="Hold"
            fields={hold.filter(({ key }) => !key.startsWith('at.'))}
            labelled
          />
        </Row>
      )}
      <Complaint form={form} path="mapping.calibration" />
      <Complaint form={form} path="mapping.hold" />
    </details>
  )
}

function Row({ title, note, children }: { title: string; note: string; children: ReactNode }) {
  return (
    <div className="flex flex-wrap items-end gap-2 border-t border-base-300 py-2">
      <p className="w-48 self-center">
        <strong>{title}</strong> <span className="soft">{note}</span>
      </p>
      {children}
    </div>
  )
}

interface InputsProps {
  form: LineForm
  fields: readonly ProtocolField[]
  /** The path that the keys are below; options of the mapping have none. */
  row?: string
  /** Said before each label to those who don't see the row. */
  name?: string
  /** Labels are shown above the fields. */
  labelled?: boolean
  onType?: () => void
}

/** Small fields side by side, those that are asked for. */
function Inputs({ form, fields, row, name, labelled = false, onType }: InputsProps) {
  const shown = asked(row ? inRow(row, fields) : fields, form.watch())
  return shown.map((field) => (
    <Input
      key={`${field.key} ${field.when?.is.join()}`}
      form={form}
      field={field}
      row={row}
      name={name}
      labelled={labelled}
      onType={onType}
    />
  ))
}

function Input({ form, field, row, name, labelled, onType }: Omit<InputsProps, 'fields'> & { field: ProtocolField }) {
  const { key, kind, label, usual, hint, choices = [] } = field
  const spoken = name ? `${name}, ${label}` : label
  const registered = form.register(key, {
    onChange: () => {
      onType?.()
      if (row) expandShorthand(form, row, field)
    },
  })
  if (kind === 'tick') {
    return (
      <label className="flex min-h-12 items-center gap-3">
        <input type="checkbox" className="checkbox border-[color:var(--line)]" {...registered} />
        {label}
      </label>
    )
  }
  const width = key.endsWith('.topic') || field.list ? 'w-52' : kind === 'number' ? 'w-24' : 'w-44'
  const input =
    kind === 'choice' ? (
      <select
        aria-label={spoken}
        className="min-h-12 border border-[color:var(--line)] bg-base-100 px-2"
        defaultValue={usual}
        {...registered}
      >
        {choices.map((choice) => (
          <option key={choice.value} value={choice.value}>
            {choice.label}
          </option>
        ))}
      </select>
    ) : (
      <input
        aria-label={spoken}
        className={`h-12 ${width} border border-[color:var(--line)] bg-base-100 px-3 text-lg`}
        autoComplete="off"
        placeholder={hint ? text(hint) : labelled ? undefined : label}
        defaultValue={usual}
        {...registered}
      />
    )
  return labelled ? <Labelled label={label}>{input}</Labelled> : input
}

function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the field is its child
    <label className="block">
      <span className="block text-sm">{label.replace(/^./, (first) => first.toUpperCase())}</span>
      {children}
    </label>
  )
}

function Complaint({ form, path }: { form: LineForm; path: string }) {
  const message = messageBelow(form.formState.errors, path)
  if (!message) return null
  return (
    <p role="alert" className="text-sm text-error">
      {message}
    </p>
  )
}

function NowReads({ raw }: { raw: RawView | undefined }) {
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
