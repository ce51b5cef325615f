import type { MessagePort } from 'node:worker_threads'
import type { BringLogOptions, BringLogView } from '@frustum/contract'
import { senmlRecords } from '../../devices/protocols/messages/senml.ts'
import readSheets from '../readSheets.ts'
import { type LoggedPosition, type LoggedReadings, layOut, readLog } from './readLog.ts'

export interface LogTask {
  bytes: Uint8Array
  name: string
  options: BringLogOptions
  positions: LoggedPosition[]
  timeZone: string
  now: number
  /** Where readings are handed on; each batch is answered before the next is sent. */
  port?: MessagePort
}

export type LogAnswer = { view: BringLogView } | { problem: string }

const MOST_ROWS = 2_000_000
/** Readings of a position that are handed on at once. */
const BATCH = 100_000

/** Reads a log, and hands on what is in it. Runs in a thread of its own. */
export default async function logWorker(task: LogTask): Promise<LogAnswer> {
  const { options, positions, timeZone, port } = task
  const read = isSenml(task) ? senmlTable(task) : await readSheets({ ...task, mostRows: MOST_ROWS })
  if ('problem' in read) return read
  const sheet = read.sheets[options.sheet] ?? read.sheets[0]
  if (!sheet) return { problem: 'There is no such sheet in it.' }
  const laid = layOut(sheet.rows, options, positions)
  const byPosition = new Map<string, LoggedReadings>()
  const counted = readLog(sheet.rows, { laid, positions, timeZone }, ({ position, of: part }, at, value) => {
    if (!port || position === null) return
    const of: LoggedReadings = byPosition.get(position) ?? { position, at: [], shown: [], temperatures: new Map() }
    byPosition.set(position, of)
    if (part === 'temperature') of.temperatures.set(at, value)
    else {
      of.at.push(at)
      of.shown.push(value)
    }
  })
  const isClear = laid.asked.length === 0 && counted.channels.every((c) => c.problem === null)
  if (port && isClear && (counted.wrong === 0 || options.leaveOut)) await handOn(port, [...byPosition.values()])
  const { headers, columns, dateOrder, asked } = laid
  const view = { headers, columns, dateOrder, asked, timeZone, ...counted, taken: null }
  return { view: { sheets: read.sheets.map((s) => s.name), sheet: options.sheet, ...view } }
}

async function handOn(port: MessagePort, all: readonly LoggedReadings[]): Promise<void> {
  const of = all.reduce((sum, { at }) => sum + at.length, 0)
  for (const { position, at, shown, temperatures } of all) {
    const order = Array.from(at.keys()).sort((a, b) => (at[a] as number) - (at[b] as number))
    for (let i = 0; i < order.length; i += BATCH) {
      const part = order.slice(i, i + BATCH)
      const answered = new Promise<void>((resolve) => port.once('message', () => resolve()))
      port.postMessage({
        of,
        position,
        at: Float64Array.from(part, (k) => at[k] as number),
        shown: Float64Array.from(part, (k) => shown[k] as number),
        temperature: Float64Array.from(part, (k) => temperatures.get(at[k] as number) ?? Number.NaN),
      })
      await answered
    }
  }
}

const isSenml = ({ bytes }: LogTask): boolean => /^\s*\[\s*\{/.test(new TextDecoder().decode(bytes.subarray(0, 200)))

/** A SenML pack (RFC 8428) as a table that names its sensors. */
function senmlTable({ bytes, name, now }: LogTask): Awaited<ReturnType<typeof readSheets>> {
  try {
    const records = senmlRecords(JSON.parse(new TextDecoder().decode(bytes)), now)
    const rows = records.flatMap(({ at, leaves }) =>
      leaves().map(({ field, value, unit }) => [
        new Date(at ?? now).toISOString(),
        unit ? `${field} [${unit}]` : field,
        String(value ?? ''),
      ]),
    )
    return { sheets: [{ name, rows: [['time', 'name', 'value'], ...rows] }] }
  } catch (error) {
    return { problem: (error as Error).message }
  }
}
