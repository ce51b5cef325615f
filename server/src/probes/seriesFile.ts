import { modelOf } from '@frustum/core'
import { eq } from 'drizzle-orm'
import { parquetWriteBuffer } from 'hyparquet-writer'
import Papa from 'papaparse'
import type { Database } from '../database/open.ts'
import { installations } from '../database/schema.ts'
import type { Span } from '../http/span.ts'
import { notFound, Problem } from '../problem.ts'
import { keepingOf, keptSince } from '../readings/keeping.ts'
import { readingsBetween } from '../readings/readingStore.ts'
import { installedAt } from '../sensors.ts'
import { binsOf, binView } from './series.ts'

const HOUR_MS = 3_600_000
/** How wide a row is: each reading, or what an hour or a day comes to. */
const WIDTHS = { readings: 0, hours: HOUR_MS, days: 24 * HOUR_MS } as const
const SERIES_FORMATS = {
  csv: 'text/csv',
  senml: 'application/senml+json',
  parquet: 'application/vnd.apache.parquet',
}
type Format = keyof typeof SERIES_FORMATS
type Every = keyof typeof WIDTHS

/** A column of numbers, texts, or instants; null where a row has nothing in it. */
interface Column {
  name: string
  type: 'TIMESTAMP' | 'DOUBLE' | 'INT32' | 'STRING'
  data: (number | string | Date | null)[]
}

/** The readings of a span as a file, at a resolution. @throws Problem for a format or a resolution that is none */
export async function seriesFile(
  db: Database,
  code: string,
  span: Span,
  asked: { format: string; every: string; now: number },
): Promise<{ type: string; body: Buffer | string }> {
  const { format, every, now } = asked
  if (!Object.hasOwn(SERIES_FORMATS, format)) throw notFound('file')
  if (!Object.hasOwn(WIDTHS, every))
    throw new Problem(400, 'invalid', 'It is each of the readings, hours, or days.', { hint: 'Begin with hours.' })
  const { position, device } = await installedAt(db, code)
  const { unit } = modelOf(position.kind).shownScale(device.setting)
  const stays = await db.select().from(installations).where(eq(installations.positionId, position.id))
  const ids = stays.map((stay) => stay.id)
  const columns = await columnsOf(db, ids, span, { unit, every: every as Every, now })
  return {
    type: SERIES_FORMATS[format as Format],
    body: written(format as Format, columns, { code: position.code, unit }),
  }
}

async function columnsOf(
  db: Database,
  ids: readonly number[],
  { from, to }: Span,
  { unit, every, now }: { unit: string; every: Every; now: number },
): Promise<Column[]> {
  const column = (name: string, type: Column['type'], data: Column['data']): Column => ({ name, type, data })
  if (every === 'readings') {
    const all = await readingsBetween(db, ids, { from, to })
    return [
      column(
        'time',
        'TIMESTAMP',
        all.map((r) => new Date(r.at)),
      ),
      column(
        `shown, ${unit}`,
        'DOUBLE',
        all.map((r) => r.shown),
      ),
      column(
        'signal',
        'DOUBLE',
        all.map((r) => r.signal),
      ),
      column(
        'temperature, °C',
        'DOUBLE',
        all.map((r) => r.temperature),
      ),
      column(
        'state',
        'STRING',
        all.map((r) => r.state),
      ),
    ]
  }
  const bins = (
    await binsOf(db, ids, { from, to, width: WIDTHS[every], since: keptSince(now, await keepingOf(db)) })
  ).flatMap(binView)
  return [
    column(
      'from',
      'TIMESTAMP',
      bins.map((b) => new Date(b.at)),
    ),
    column(
      `lowest, ${unit}`,
      'DOUBLE',
      bins.map((b) => b.min),
    ),
    column(
      `mean, ${unit}`,
      'DOUBLE',
      bins.map((b) => b.mean),
    ),
    column(
      `highest, ${unit}`,
      'DOUBLE',
      bins.map((b) => b.max),
    ),
    column(
      'standard deviation',
      'DOUBLE',
      bins.map((b) => b.deviation),
    ),
    column(
      'readings',
      'INT32',
      bins.map((b) => b.good),
    ),
    column(
      'temperature, °C',
      'DOUBLE',
      bins.map((b) => b.temperature),
    ),
  ]
}

function written(
  format: Format,
  columns: readonly Column[],
  { code, unit }: { code: string; unit: string },
): Buffer | string {
  if (format === 'parquet')
    return Buffer.from(parquetWriteBuffer({ columnData: columns.map((c) => ({ ...c, nullable: true })) }))
  const [times, ...rest] = columns as [Column, ...Column[]]
  if (format === 'senml') return JSON.stringify(senml(times, rest, { code, unit }))
  return Papa.unparse({
    fields: columns.map((c) => c.name),
    data: times.data.map((_, i) => columns.map(({ data }) => textOf(data[i]))),
  })
}

const textOf = (value: Column['data'][number] | undefined): string | number =>
  value instanceof Date ? value.toISOString() : (value ?? '')

/**
 * A SenML pack (RFC 8428): the name of the position and of the figure, the time of each, and its value; units as the
 * registry of SenML has them, where it has them.
 */
function senml(times: Column, figures: readonly Column[], { code, unit }: { code: string; unit: string }): object[] {
  const named: Readonly<Record<string, string>> = { pH: 'pH', 'S/m': 'S/m', V: 'V', '°C': 'Cel' }
  const u = named[unit]
  return times.data.flatMap((time, i) =>
    figures.flatMap(({ name, type, data }, k) => {
      const value = data[i]
      if (value === null || value === undefined || (type !== 'DOUBLE' && type !== 'INT32')) return []
      const isShown = name.endsWith(`, ${unit}`)
      const n = k === 0 ? code : `${code}:${name.split(',')[0]?.replaceAll(' ', '-')}`
      const own = isShown && u ? { u } : name === 'temperature, °C' ? { u: 'Cel' } : {}
      return [{ n, ...own, t: (time as Date).getTime() / 1000, v: value as number }]
    }),
  )
}
