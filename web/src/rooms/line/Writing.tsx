import { BYTE_ORDERS, type LineView, REGISTER_TYPES } from '@frustum/contract'
import { Choice } from '../../components/Choice.tsx'
import { Small } from './channelParts.tsx'
import { type ChannelDraft, EMPTY_CHANNEL, EMPTY_HOLD, EMPTY_STATUS, type LineDraft } from './draft.ts'

interface WritingProps {
  line: LineView
  draft: LineDraft
  onChange: (change: Partial<LineDraft>) => void
}

/** What the device says of itself, the numbers it computes with, and its outputs: where it has any of it. */
export function Writing({ line, draft, onChange }: WritingProps) {
  const { status, hold, calibration, writes } = draft
  const set = (key: string, change: Partial<ChannelDraft>) =>
    onChange({ calibration: { ...calibration, [key]: { ...EMPTY_CHANNEL, ...calibration[key], ...change } } })
  const mapped = Object.values(calibration).some((c) => c.address.trim() !== '')
  return (
    <details className="border-t border-base-300 pt-2">
      <summary className="min-h-11 w-fit cursor-pointer content-center font-bold">
        Its calibration, its outputs, its status
      </summary>
      <p className="max-w-prose pb-3 text-pretty soft">
        Where the device lets its own numbers be read, Frustum sees when they change. Written is only what you allow
        here, after the numbers were shown, and it is read back at once. Nothing else is ever written.
      </p>
      {line.parameters.map(({ key, label, unit }) => {
        const channel = calibration[key] ?? EMPTY_CHANNEL
        return (
          <div key={key} className="flex flex-wrap items-end gap-2 border-t border-base-300 py-2">
            <p className="w-48 self-center">
              <strong>{label}</strong> <span className="soft">{unit}</span>
            </p>
            <Small
              label={`${label}, holding register`}
              placeholder="holding"
              width="w-28"
              value={channel.address}
              onType={(address) => set(key, { address, table: 'holding' })}
            />
            <Choice
              bare
              label={`${label}, type`}
              value={channel.type}
              choices={REGISTER_TYPES.filter((t) => t !== 'bit').map((t) => [t, t])}
              onChoose={(type) => set(key, { type: type as ChannelDraft['type'] })}
            />
            <Choice
              bare
              label={`${label}, order of bytes`}
              value={channel.order}
              choices={BYTE_ORDERS.map((o) => [o, o])}
              onChoose={(order) => set(key, { order: order as ChannelDraft['order'] })}
            />
            <Small label="× scale" shown width="w-20" value={channel.scale} onType={(scale) => set(key, { scale })} />
            <Small label="lowest" shown width="w-20" value={channel.low} onType={(low) => set(key, { low })} />
            <Small label="highest" shown width="w-20" value={channel.high} onType={(high) => set(key, { high })} />
          </div>
        )
      })}
      <label className="flex min-h-11 items-center gap-3 py-2">
        <input
          type="checkbox"
          className="checkbox border-[color:var(--line)]"
          checked={writes}
          disabled={!mapped}
          onChange={(e) => onChange({ writes: e.target.checked })}
        />
        These may be written from the Bench
      </label>
      <div className="flex flex-wrap items-end gap-2 border-t border-base-300 py-2">
        <p className="w-48 self-center">
          <strong>Outputs held</strong>
        </p>
        <Choice
          bare
          label="Hold, table"
          value={hold?.table ?? 'holding'}
          choices={[
            ['holding', 'Holding'],
            ['coil', 'Coil'],
          ]}
          onChoose={(table) => onChange({ hold: { ...EMPTY_HOLD, ...hold, table: table as 'holding' | 'coil' } })}
        />
        <Small
          label="Hold, address"
          placeholder="address"
          width="w-28"
          value={hold?.address ?? ''}
          onType={(address) => onChange({ hold: { ...EMPTY_HOLD, ...hold, address } })}
        />
        <Small
          label="held"
          shown
          width="w-20"
          value={hold?.on ?? '1'}
          onType={(on) => onChange({ hold: { ...EMPTY_HOLD, ...hold, on } })}
        />
        <Small
          label="let go"
          shown
          width="w-20"
          value={hold?.off ?? '0'}
          onType={(off) => onChange({ hold: { ...EMPTY_HOLD, ...hold, off } })}
        />
        <label className="flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="checkbox border-[color:var(--line)]"
            checked={hold?.many ?? false}
            onChange={(e) => onChange({ hold: { ...EMPTY_HOLD, ...hold, many: e.target.checked } })}
          />
          by function {hold?.table === 'coil' ? '15' : '16'} alone
        </label>
      </div>
      <div className="flex flex-wrap items-end gap-2 border-t border-base-300 py-2">
        <p className="w-48 self-center">
          <strong>Status</strong> <span className="soft">a fault of its own</span>
        </p>
        <Choice
          bare
          label="Status, table"
          value={status?.table ?? 'holding'}
          choices={[
            ['holding', 'Holding'],
            ['input', 'Input'],
            ['coil', 'Coil'],
            ['discrete', 'Discrete'],
          ]}
          onChoose={(table) =>
            onChange({
              status: {
                ...EMPTY_STATUS,
                ...status,
                table: table as NonNullable<LineDraft['status']>['table'],
              },
            })
          }
        />
        <Small
          label="Status, address"
          placeholder="address"
          width="w-28"
          value={status?.address ?? ''}
          onType={(address) => onChange({ status: { ...EMPTY_STATUS, ...status, address } })}
        />
        <Small
          label="fault at bits"
          shown
          width="w-28"
          value={status?.bits ?? ''}
          onType={(bits) => onChange({ status: { ...EMPTY_STATUS, ...status, bits } })}
        />
        <Small
          label="or at values"
          shown
          width="w-28"
          value={status?.values ?? ''}
          onType={(values) => onChange({ status: { ...EMPTY_STATUS, ...status, values } })}
        />
      </div>
    </details>
  )
}
