import { createHash } from 'node:crypto'
import {
  CHANNELS,
  type ConnectionSettings,
  channelOf,
  type DeviceAddress,
  givesOf,
  isElsewhere,
  isModbus,
  isRegister,
  type LineBody,
  type Mapping,
  PROTOCOLS,
  type Protocol,
} from '@frustum/contract'
import { and, eq, isNull } from 'drizzle-orm'
import { type Author, noteChanges, noteDone } from '../../changes/changes.ts'
import type { Database, Transaction } from '../../database/open.ts'
import { connectionSecrets, connections, devices, ingestTokens, positions } from '../../database/schema.ts'
import { notFound, Problem } from '../../problem.ts'
import type { Bus, FollowedDevice } from '../link.ts'
import type { Links } from '../links.ts'
import { lineText } from '../mapping/mappingText.ts'

const invalid = (fields: Record<string, string>) =>
  new Problem(400, 'invalid', Object.values(fields)[0] ?? '', { detail: 'Nothing was changed.', fields })

/** What a protocol needs to be reached. @throws Problem that names the field */
export function checkSettings(protocol: Protocol, { host, path, url }: ConnectionSettings): void {
  if (protocol === 'push') return
  if (protocol === 'modbus-serial') {
    if (!path) throw invalid({ path: 'Choose the serial port.' })
  } else if (protocol === 'http') {
    if (!url) throw invalid({ url: 'Type its address, as http://192.168.1.40/.' })
  } else if (!host) throw invalid({ host: 'Type its address or its name on the network.' })
}

function checkAddress(protocol: Protocol, { unit }: DeviceAddress): void {
  if (isModbus(protocol) && unit === undefined) throw invalid({ unit: 'Type the unit number: 1 if there is but one.' })
}

/** @throws Problem where a mapping names what cannot be there */
function checkMapping(protocol: Protocol, mapping: Mapping, { topic }: DeviceAddress): void {
  if (givesOf(mapping) === null) throw invalid({ value: 'Say where its value stands, or its signal.' })
  const places = [
    ...CHANNELS.map((name) => [name, channelOf(mapping, name)?.at] as const),
    ['status', mapping.status?.at] as const,
  ]
  for (const [name, at] of places) {
    if (!at) continue
    if (isRegister(at) !== isModbus(protocol)) throw invalid({ [name]: 'It cannot stand there.' })
    if (isRegister(at) && at.address < mapping.countsFrom)
      throw invalid({ [name]: 'Counted from 1, there is no address 0.' })
    if (protocol === 'mqtt' && !isRegister(at)) checkTopic(name, at.topic || topic)
  }
  if (!isModbus(protocol) && (mapping.hold || mapping.calibration))
    throw invalid({ hold: 'Only what is reached by Modbus is written to.' })
}

function checkTopic(name: string, topic: string | undefined): void {
  if (!topic) throw invalid({ [name]: 'Say under which topic it comes.' })
  if (/[+#]/.test(topic)) throw invalid({ [name]: 'Say under which one topic it comes, without + and #.' })
}

/** @throws Problem where the temperature is that of a position that nobody has */
async function checkThermometer(tx: Transaction, { temperature }: Mapping): Promise<void> {
  if (!temperature || !isElsewhere(temperature)) return
  const [there] = await tx
    .select({ id: positions.id })
    .from(positions)
    .where(and(eq(positions.code, temperature.position), isNull(positions.archivedAt)))
  if (!there) throw invalid({ temperature: `There is no ${temperature.position} whose temperature it could take.` })
}

interface Asked extends Bus {
  connectionId: number | null
  device: FollowedDevice
}

/** What a line would be by what was typed. @throws Problem that names the field */
export async function askedLine(db: Database | Transaction, positionId: number, body: LineBody): Promise<Asked> {
  const { position, device } = await positionOf(db, positionId)
  const known = body.connectionId === undefined ? null : await connectionOf(db, body.connectionId)
  const protocol = known?.protocol ?? body.protocol
  if (!protocol) throw invalid({ protocol: 'Choose how it is reached.' })
  const settings = known?.settings ?? (body.settings as ConnectionSettings)
  checkSettings(protocol, settings)
  const secret = body.secret !== undefined ? body.secret || null : known ? await secretOf(db, known.id) : null
  const address = body.address as DeviceAddress
  checkAddress(protocol, address)
  const mapping = body.mapping ? readMapping(body.mapping) : null
  return {
    protocol,
    settings,
    secret,
    connectionId: known?.id ?? null,
    device: {
      id: device.id,
      name: device.name,
      address,
      sensors: mapping
        ? [{ id: position.id, code: position.code, kind: position.kind, setting: device.setting, mapping }]
        : [],
    },
  }
}

/** A temperature that is measured elsewhere has nothing of a channel. */
export function readMapping(mapping: NonNullable<LineBody['mapping']>): Mapping {
  const { temperature, ...rest } = mapping
  const there = temperature?.position
    ? { position: temperature.position }
    : temperature?.at
      ? { ...temperature, position: undefined, at: temperature.at }
      : undefined
  // What a form leaves out is not there, rather than there and nothing.
  return JSON.parse(JSON.stringify({ ...rest, temperature: there })) as Mapping
}

async function positionOf(db: Database | Transaction, id: number) {
  const [found] = await db
    .select({ position: positions, device: devices })
    .from(positions)
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .where(eq(positions.id, id))
  if (!found || found.position.archivedAt) throw notFound('position')
  return found
}

/** What a connection is signed in to with; never answered to anybody. */
export async function secretOf(db: Database | Transaction, connectionId: number): Promise<string | null> {
  const [row] = await db.select().from(connectionSecrets).where(eq(connectionSecrets.connectionId, connectionId))
  return row?.secret ?? null
}

async function keepSecret(tx: Transaction, connectionId: number, secret: string | null): Promise<void> {
  await tx.delete(connectionSecrets).where(eq(connectionSecrets.connectionId, connectionId))
  if (secret) await tx.insert(connectionSecrets).values({ connectionId, secret })
}

async function connectionOf(db: Database | Transaction, id: number) {
  const [row] = await db.select().from(connections).where(eq(connections.id, id))
  if (!row || row.archivedAt) throw invalid({ connectionId: 'There is no such connection any more.' })
  return row
}

/** Keeps what a sensor is read by: its connection, made if it is new, where its device is on it, and its mapping. */
export async function setLine(
  db: Database,
  links: Links,
  positionId: number,
  body: LineBody,
  author: Author,
): Promise<void> {
  await db.transaction(async (tx) => {
    const { position, device: before } = await positionOf(tx, positionId)
    const { protocol, settings, secret, connectionId: known, device } = await askedLine(tx, positionId, body)
    const mapping = device.sensors[0]?.mapping
    if (!mapping) throw invalid({ value: 'Say where its value stands, or its signal.' })
    checkMapping(protocol, mapping, device.address)
    await checkThermometer(tx, mapping)
    const connectionId = known ?? (await makeConnection(tx, { name: body.name, protocol, settings, secret }, author))
    if (known !== null && body.secret !== undefined) await keepSecret(tx, known, secret)
    await noteChanges(tx, { subject: 'device', id: before.id }, author, {
      before: { line: lineText(before.connectionId, before.address) },
      after: { line: lineText(connectionId, device.address) },
    })
    await noteChanges(tx, { subject: 'position', id: positionId }, author, {
      before: { mapping: position.mapping && JSON.stringify(position.mapping) },
      after: { mapping: JSON.stringify(mapping) },
    })
    await tx.update(devices).set({ connectionId, address: device.address }).where(eq(devices.id, before.id))
    await tx.update(positions).set({ mapping }).where(eq(positions.id, positionId))
  })
  await links.follow()
}

async function makeConnection(
  tx: Transaction,
  { name, protocol, settings, secret }: Bus & { name: string | undefined },
  author: Author,
): Promise<number> {
  const where = settings.path ?? settings.host ?? settings.url
  const called = name || [PROTOCOLS[protocol], where].filter(Boolean).join(', ')
  const [made] = await tx.insert(connections).values({ name: called, protocol, settings }).returning()
  const { id } = made as { id: number }
  await keepSecret(tx, id, secret)
  await noteDone(tx, { subject: 'site', id: null }, author, `Connection added: ${called}`)
  return id
}

/** The address that a device sends to by itself; that which it had leads nowhere from now on. */
export async function setToken(db: Database, positionId: number, token: string, author: Author): Promise<void> {
  await db.transaction(async (tx) => {
    const { device } = await positionOf(tx, positionId)
    const [taken] = await tx
      .select({ deviceId: ingestTokens.deviceId })
      .from(ingestTokens)
      .where(eq(ingestTokens.token, hashedToken(token)))
    if (taken && taken.deviceId !== device.id) throw invalid({ token: 'Another device has that one: draw another.' })
    const made = { token: hashedToken(token), madeAt: author.at, madeBy: author.operator, usedAt: null }
    await tx
      .insert(ingestTokens)
      .values({ deviceId: device.id, ...made })
      .onConflictDoUpdate({ target: ingestTokens.deviceId, set: made })
    await noteDone(tx, { subject: 'device', id: device.id }, author, 'Given an address to send to')
  })
}

/** Only this is kept of a token: whoever reads the database cannot send in its name. */
export const hashedToken = (token: string): string => createHash('sha256').update(token).digest('hex')

/** From now on a sensor is read by eye; its device stays where it is for the others on it. */
export async function removeLine(db: Database, links: Links, positionId: number, author: Author): Promise<void> {
  await db.transaction(async (tx) => {
    const { position } = await positionOf(tx, positionId)
    if (!position.mapping) return
    await noteChanges(tx, { subject: 'position', id: positionId }, author, {
      before: { mapping: JSON.stringify(position.mapping) },
      after: { mapping: null },
    })
    await tx.update(positions).set({ mapping: null }).where(eq(positions.id, positionId))
  })
  await links.follow()
}

/** Another way to the same bus or host. @throws Problem that names the field */
export async function editConnection(
  db: Database,
  links: Links,
  id: number,
  { name, settings, secret }: { name: string; settings: ConnectionSettings; secret: string | undefined },
  author: Author,
): Promise<void> {
  await db.transaction(async (tx) => {
    const before = await connectionOf(tx, id)
    checkSettings(before.protocol, settings)
    if (secret !== undefined) await keepSecret(tx, id, secret || null)
    else if (goesElsewhere(before.settings, settings) && (await secretOf(tx, id)) !== null)
      throw invalid({ secret: 'It is another host: type its password or token again.' })
    await tx.update(connections).set({ name, settings }).where(eq(connections.id, id))
    const changed = JSON.stringify(settings) === JSON.stringify(before.settings) ? 'renamed' : 'changed'
    const was = before.name === name ? '' : `, before ${before.name}`
    await noteDone(tx, { subject: 'site', id: null }, author, `Connection ${changed}: ${name}${was}`)
  })
  await links.follow()
}

/** What opens one host is not handed to another without whoever knows it. */
const goesElsewhere = (before: ConnectionSettings, after: ConnectionSettings): boolean =>
  (['host', 'port', 'url', 'tls', 'authority'] as const).some((name) => before[name] !== after[name])

/** Puts a connection away that no device is on. @throws Problem where one is */
export async function deleteConnection(db: Database, links: Links, id: number, author: Author): Promise<void> {
  await db.transaction(async (tx) => {
    const { name } = await connectionOf(tx, id)
    const [used] = await tx.select({ name: devices.name }).from(devices).where(eq(devices.connectionId, id)).limit(1)
    if (used) {
      throw new Problem(409, 'in-use', `${used.name} is on it.`, {
        detail: 'Nothing was changed.',
        hint: 'Give its sensors another line first.',
      })
    }
    await tx.update(connections).set({ archivedAt: author.at }).where(eq(connections.id, id))
    await noteDone(tx, { subject: 'site', id: null }, author, `Connection put away: ${name}`)
  })
  await links.follow()
}
