import { createHash } from 'node:crypto'
import {
  type ConnectionSettings,
  type DeviceAddress,
  givesOf,
  isElsewhere,
  type LineBody,
  type Mapping,
} from '@frustum/contract'
import { and, eq, isNull } from 'drizzle-orm'
import { type AnyObjectSchema, ValidationError } from 'yup'
import { type Author, noteChanges, noteDone } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { connectionSecrets, connections, devices, ingestTokens, positions } from '../database/schema.ts'
import type { Bus, FollowedDevice } from '../devices/link.ts'
import type { Links } from '../devices/links.ts'
import { mappingSchemaOf } from '../devices/mapping/mappingSchema.ts'
import { lineText } from '../devices/mapping/mappingText.ts'
import type { Protocol } from '../devices/protocols/protocol.ts'
import { findProtocol, protocolOf, schemeOf } from '../devices/protocols/registry.ts'
import { notFound, Problem } from '../problem.ts'

const invalid = (fields: Record<string, string>) =>
  new Problem(400, 'invalid', Object.values(fields)[0] ?? '', { detail: 'Nothing was changed.', fields })

/** A part of a body by the schema of its protocol, with defaults for what wasn't sent. @throws Problem that names the fields below the path */
function readPart<T>(path: string, schema: AnyObjectSchema, sent: unknown): T {
  try {
    return schema.cast(schema.validateSync(sent, { abortEarly: false, strict: true })) as T
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    const found = error.inner.length > 0 ? error.inner : [error]
    throw invalid(Object.fromEntries(found.map((e) => [[path, e.path].filter(Boolean).join('.'), e.message])))
  }
}

export const readSettings = ({ settings }: Protocol, sent: unknown): ConnectionSettings =>
  readPart<ConnectionSettings>('settings', settings, sent)

/** A mapping in the scheme of a protocol, or in any where none is named. @throws Problem */
export function readMapping(sent: Mapping, scheme = schemeOf(sent)): Mapping {
  if (!scheme) throw invalid({ mapping: "These places aren't of any protocol." })
  const { temperature, ...rest } = readPart<Mapping>('mapping', mappingSchemaOf(scheme), sent)
  const there = temperature && isElsewhere(temperature) && temperature.position
  const own = temperature && !there && 'at' in temperature && temperature.at ? temperature : undefined
  // What a form leaves blank is missing, not there and undefined.
  return JSON.parse(JSON.stringify({ ...rest, temperature: there ? { position: there } : own })) as Mapping
}

/** @throws Problem where a mapping can't be read at such an address */
function checkMapping(protocol: Protocol, mapping: Mapping, address: DeviceAddress): void {
  if (givesOf(mapping) === null) throw invalid({ 'mapping.value': 'Map the value or the signal.' })
  const problems = protocol.problems?.(mapping, address) ?? {}
  if (Object.keys(problems).length > 0) throw invalid(problems)
}

/** @throws Problem where the temperature is that of a position that nobody has */
async function checkThermometer(tx: Transaction, { temperature }: Mapping): Promise<void> {
  if (!temperature || !isElsewhere(temperature)) return
  const [there] = await tx
    .select({ id: positions.id })
    .from(positions)
    .where(and(eq(positions.code, temperature.position), isNull(positions.archivedAt)))
  if (!there)
    throw invalid({ 'mapping.temperature': `There is no ${temperature.position} whose temperature it could take.` })
}

interface Asked extends Bus {
  connectionId: number | null
  device: FollowedDevice
}

/** What a line would be by what was typed. @throws Problem that names the field */
export async function askedLine(db: Database | Transaction, positionId: number, body: LineBody): Promise<Asked> {
  const { position, device } = await positionOf(db, positionId)
  const known = body.connectionId === undefined ? null : await connectionOf(db, body.connectionId)
  const protocol = wantedProtocol(known?.protocol ?? body.protocol)
  const settings = known?.settings ?? readSettings(protocol, body.settings)
  const secret = body.secret !== undefined ? body.secret || null : known ? await secretOf(db, known.id) : null
  const address = readPart<DeviceAddress>('address', protocol.address, body.address)
  const mapping = body.mapping ? readMapping(body.mapping, protocol.mapping) : null
  return {
    protocol: protocol.key,
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

/** @throws Problem */
export function wantedProtocol(key: string | undefined): Protocol {
  const protocol = key === undefined ? undefined : findProtocol(key)
  if (!protocol) throw invalid({ protocol: 'Choose a protocol.' })
  return protocol
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
  if (!row || row.archivedAt || !findProtocol(row.protocol))
    throw invalid({ connectionId: 'This connection no longer exists. Choose another one.' })
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
    if (!mapping) throw invalid({ 'mapping.value': 'Map the value or the signal.' })
    checkMapping(protocolOf(protocol), mapping, device.address)
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

/** The protocol and where it leads. */
export function connectionText({ protocol, settings }: Pick<Bus, 'protocol' | 'settings'>): string {
  const { name, reachedText } = protocolOf(protocol)
  return [name, reachedText(settings)].filter(Boolean).join(', ')
}

async function makeConnection(
  tx: Transaction,
  { name, protocol, settings, secret }: Bus & { name: string | undefined },
  author: Author,
): Promise<number> {
  const called = name || connectionText({ protocol, settings })
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
  { name, settings: sent, secret }: { name: string; settings: ConnectionSettings; secret: string | undefined },
  author: Author,
): Promise<void> {
  await db.transaction(async (tx) => {
    const before = await connectionOf(tx, id)
    const protocol = protocolOf(before.protocol)
    const settings = readSettings(protocol, sent)
    if (secret !== undefined) await keepSecret(tx, id, secret || null)
    else if (goesElsewhere(protocol, before.settings, settings) && (await secretOf(tx, id)) !== null)
      throw invalid({ 'settings.secret': 'The host changed. Enter its password or token again.' })
    await tx.update(connections).set({ name, settings }).where(eq(connections.id, id))
    const changed = JSON.stringify(settings) === JSON.stringify(before.settings) ? 'renamed' : 'changed'
    const was = before.name === name ? '' : `, before ${before.name}`
    await noteDone(tx, { subject: 'site', id: null }, author, `Connection ${changed}: ${name}${was}`)
  })
  await links.follow()
}

/** The secret of one host is never sent to another. */
const goesElsewhere = ({ hostSettings }: Protocol, before: ConnectionSettings, after: ConnectionSettings): boolean =>
  hostSettings.some((name) => before[name] !== after[name])

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
