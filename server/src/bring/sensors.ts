import { createHash } from 'node:crypto'
import {
  type AddPositionBody,
  type BringOptions,
  type BringView,
  SENSOR_COLUMNS,
  type SensorColumn,
} from '@frustum/contract'
import {
  cautionsIn,
  codeKey,
  type DeviceSetting,
  IONS,
  kindCalled,
  kindOf,
  proposedCode,
  type SensorKind,
  settingValues,
  shownValue,
  templateFor,
  valueShown,
  WATER_KINDS,
  WATERS,
  type Water,
} from '@frustum/core'
import { and, asc, eq, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { devices, imports, positionCodes, positions } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { addPositionIn } from '../rig/add.ts'
import { fromHeadings, guessColumns, type RowReader, readerOf } from './columns.ts'
import { lookedAtUnless } from './lookedAt.ts'
import { sheetsOf } from './sheets.ts'
import { rowsWrong } from './thread.ts'

/** Ends a transaction whose work was only to be looked at. */
/**
 * A list of sensors becomes positions with their devices, all or nothing. What is looked at first is what would be done:
 * the same work, taken back. Codes that are there already stay as they are, so that the same file twice changes nothing.
 * @throws Problem for a file that cannot be read, and for rows that are wrong and not to be left out
 */
export async function bringSensors(
  db: Database,
  file: { bytes: Buffer; name: string },
  options: BringOptions,
  author: { operator: string; at: Date },
): Promise<BringView> {
  const sheets = await sheetsOf(file.bytes, file.name)
  const sheet = sheets[options.sheet] ?? sheets[0]
  const { headingRow, firstRows, headers, body } = fromHeadings(
    sheet?.rows ?? [],
    (cells) => guessColumns(SENSOR_COLUMNS, cells),
    options.headingRow,
  )
  const columns = options.columns ?? guessColumns(SENSOR_COLUMNS, headers)
  const sha256 = createHash('sha256').update(file.bytes).digest('hex')
  const view: BringView = {
    sheets: sheets.map((s) => s.name),
    sheet: sheet ? sheets.indexOf(sheet) : 0,
    headingRow,
    firstRows,
    headers,
    columns,
    rows: [],
    taken: null,
    sha256,
  }
  await lookedAtUnless(options.take, db, async (tx) => {
    const before = await codesGiven(tx, sha256)
    for (const [i, cells] of body.entries()) {
      if (cells.every((cell) => cell === '')) continue
      const number = headingRow + i + 1
      const row = readerOf(headers, columns, cells)
      const code = row.cell('code') || (before.get(number) ?? '')
      view.rows.push({ number, ...(await takeRow(tx, row, { ...options, code }, author)) })
    }
    if (!options.take) return
    const wrong = view.rows.filter((r) => r.state === 'wrong').length
    if (wrong > 0 && !options.leaveOut) throw rowsWrong(wrong, view.rows.length)
    view.taken = view.rows.filter((r) => r.state === 'new').length
    await tx
      .insert(imports)
      .values({ ...author, what: 'sensors', fileName: file.name, sha256, report: view.rows, doneAt: author.at })
  })
  return view
}

/** The codes that the rows of this very file were given when it was taken in before: rows without one have no other name. */
async function codesGiven(tx: Transaction, sha256: string): Promise<Map<number, string>> {
  const earlier = await tx
    .select()
    .from(imports)
    .where(and(eq(imports.sha256, sha256), eq(imports.what, 'sensors')))
    .orderBy(asc(imports.id))
  return new Map(
    earlier.flatMap(({ report }) =>
      (report as BringView['rows']).filter((r) => r.state !== 'wrong').map((r) => [r.number, r.code] as const),
    ),
  )
}

type Outcome = Omit<BringView['rows'][number], 'number'>

async function takeRow(
  tx: Transaction,
  row: RowReader<SensorColumn>,
  options: BringOptions & { code: string },
  author: { operator: string; at: Date },
): Promise<Outcome> {
  const given = options.code
  const wrong: Record<string, string> = {}
  const kind = kindCalled(row.cell('kind'))
  if (!kind) wrong.kind = row.cell('kind') ? `"${row.cell('kind')}" is no kind of sensor.` : 'What does it measure?'
  const water = waterCalled(row.cell('water') || options.water)
  if (!water) wrong.water = `"${row.cell('water') || options.water}" is none of the waters.`
  const place = row.cell('place') || options.place
  if (place === '') wrong.place = 'Where is it?'
  if (given !== '' && (await isKnown(tx, given))) {
    return { code: given, state: 'known', what: 'is here already, and stays as it is', wrong: {} }
  }
  if (!kind || !water || Object.keys(wrong).length > 0) return { code: given, state: 'wrong', what: '', wrong }
  const code = given || proposedCode(place, kind, await codesOf(tx))
  try {
    const body = await bodyOf(tx, row, { kind, water, place, code }, options, author.operator)
    // Each row by itself: one that is refused leaves nothing behind, and the next goes on.
    await tx.transaction((own) =>
      addPositionIn(own, body, author.at, { serial: row.cell('serial'), model: row.cell('model') }),
    )
    const { processValue, tolerance, startingDays } = body.values
    return {
      code,
      state: 'new',
      what: `${kindOf(kind).name} in ${place}, ${WATERS[water].label.toLowerCase()}: usually ${processValue}, ±${tolerance}, at first every ${startingDays} days`,
      wrong: {},
    }
  } catch (error) {
    if (!(error instanceof Problem)) throw error
    return { code, state: 'wrong', what: '', wrong: error.more.fields ?? { code: error.message } }
  }
}

async function isKnown(tx: Transaction, code: string): Promise<boolean> {
  const [now] = await tx
    .select({ id: positions.id })
    .from(positions)
    .where(sql`lower(${positions.code}) = ${codeKey(code)}`)
  return now !== undefined
}

const codesOf = async (tx: Transaction): Promise<string[]> => [
  ...(await tx.select({ code: positions.code }).from(positions)).map((r) => r.code),
  ...(await tx.select({ code: positionCodes.code }).from(positionCodes)).map((r) => r.code),
]

function waterCalled(text: string): Water | null {
  const word = text.trim().toLowerCase()
  if (word === '') return null
  return (
    WATER_KINDS.find((w) => w === word || WATERS[w].label.toLowerCase() === word) ??
    WATER_KINDS.find((w) => WATERS[w].label.toLowerCase().includes(word)) ??
    null
  )
}

interface Named {
  kind: SensorKind
  water: Water
  place: string
  code: string
}

/** What is asked of a position, from the row where it says it, else from the template of its water. */
async function bodyOf(
  tx: Transaction,
  row: RowReader<SensorColumn>,
  { kind, water, place, code }: Named,
  options: BringOptions,
  operator: string,
): Promise<AddPositionBody> {
  const template = templateFor(kind, water)
  const device = settingFrom(row, kind, template.device)
  const temperature = row.cell('processTemperature') || String(template.temperature)
  const fahrenheit = /^°?f/i.test(row.unit('processTemperature')) && /\d$/.test(row.cell('processTemperature'))
  const core = valueShown(kind, template.shown, template.temperature, template.device)
  const usual = shownValue(kind, core, template.temperature, device) ?? template.shown
  const { decimals } = kindOf(kind).model.shownScale(device)
  const name = row.cell('device')
  const known = name === '' ? undefined : await deviceCalled(tx, name)
  const key = row.cell('key')
  return {
    operator,
    kind,
    water,
    placeName: place,
    ...(known ? { deviceId: known } : { deviceName: name }),
    inUse: options.inUse,
    values: {
      code,
      spot: row.cell('spot'),
      shows: 'value',
      adjustsBy: key === '' ? options.adjustsBy : 'key',
      calibrationKey: key || 'CAL',
      whileCalibrating: 'value',
      ...asTexts(settingValues([kind], device)),
      processValue: row.cell('processValue') || String(Number(usual.toFixed(decimals))),
      processTemperature: `${temperature}${fahrenheit ? ' F' : ''}`,
      tolerance: row.cell('tolerance').replace(/^(±|\+\/?-)\s*/, '') || String(template.tolerance),
      startingDays: row.cell('startingDays') || String(template.startingDays),
      floorDays: String(template.floorDays),
      ceilingDays: String(ceilingFor(row.cell('startingDays'), template.ceilingDays)),
      reliability: '95',
      consequence: String(template.consequence),
      spareLeadDays: '21',
      cautions: cautionsIn(water).join('\n'),
    },
  }
}

const asTexts = (values: ReturnType<typeof settingValues>) =>
  Object.fromEntries(Object.entries(values).map(([key, v]) => [key, typeof v === 'number' ? String(v) : v]))

/** A calendar of one's own is no longer than the longest interval. */
const ceilingFor = (days: string, usual: number) => (/^\d+$/.test(days) ? Math.max(usual, Number(days)) : usual)

/** The unit in the heading, or what the kind is called in the row, says what the display shows. */
function settingFrom(row: RowReader<SensorColumn>, kind: SensorKind, usual: DeviceSetting): DeviceSetting {
  const says = `${row.unit('processValue')} ${row.cell('kind')}`.toLowerCase()
  const display = kindOf(kind)
    .setting?.fields.find((f) => f.key === 'display')
    ?.choices?.find((c) => says.includes(c.value.toLowerCase()))?.value
  const ion = Object.values(IONS).find((i) => says.includes(i.label.toLowerCase()))?.code
  return {
    ...usual,
    ...(display ? { display: display as NonNullable<DeviceSetting['display']> } : {}),
    ...(ion && 'ion' in usual ? { ion } : {}),
  }
}

async function deviceCalled(tx: Transaction, name: string): Promise<number | undefined> {
  const [device] = await tx
    .select({ id: devices.id })
    .from(devices)
    .where(eq(sql`lower(${devices.name})`, name.toLowerCase()))
  return device?.id
}
