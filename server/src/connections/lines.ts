import {
  CHANNELS,
  type ConnectionSettings,
  channelOf,
  type DeviceAddress,
  givesOf,
  isModbus,
  isRegister,
  type LineBody,
  type Mapping,
  PROTOCOLS,
  type Protocol,
} from '@frustum/contract'
import { eq } from 'drizzle-orm'
import { type Author, noteChanges, noteDone } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { connections, devices, positions } from '../database/schema.ts'
import type { FollowedDevice } from '../links/link.ts'
import type { Links } from '../links/links.ts'
import { lineText } from '../links/mapping/mappingText.ts'
import { notFound, Problem } from '../problem.ts'

const invalid = (fields: Record<string, string>) =>
  new Problem(400, 'invalid', Object.values(fields)[0] ?? '', { detail: 'Nothing was changed.', fields })

/** What a protocol needs to be reached. @throws Problem that names the field */
export function checkSettings(protocol: Protocol, { host, path }: ConnectionSettings): void {
  if (protocol === 'modbus-serial') {
    if (!path) throw invalid({ path: 'Choose the serial port.' })
  } else if (!host) throw invalid({ host: 'Type its address or its name on the network.' })
}

function checkAddress(protocol: Protocol, { unit }: DeviceAddress): void {
  if (isModbus(protocol) && unit === undefined) throw invalid({ unit: 'Type the unit number: 1 if there is but one.' })
}

/** @throws Problem where a mapping names what cannot be there */
function checkMapping(protocol: Protocol, mapping: Mapping): void {
  if (givesOf(mapping) === null) throw invalid({ value: 'Say where its value stands, or its signal.' })
  for (const name of CHANNELS) {
    const channel = channelOf(mapping, name)
    if (!channel) continue
    if (isRegister(channel.at) !== isModbus(protocol)) throw invalid({ [name]: 'It cannot stand there.' })
    if (isRegister(channel.at) && channel.at.address < mapping.countsFrom)
      throw invalid({ [name]: 'Counted from 1, there is no address 0.' })
  }
}

interface Asked {
  protocol: Protocol
  settings: ConnectionSettings
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
  const address = body.address as DeviceAddress
  checkAddress(protocol, address)
  const mapping = readMapping(body)
  return {
    protocol,
    settings,
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
function readMapping({ mapping }: LineBody): Mapping | null {
  if (!mapping) return null
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
    const { protocol, settings, connectionId: known, device } = await askedLine(tx, positionId, body)
    const mapping = device.sensors[0]?.mapping
    if (!mapping) throw invalid({ value: 'Say where its value stands, or its signal.' })
    checkMapping(protocol, mapping)
    const connectionId = known ?? (await makeConnection(tx, { name: body.name, protocol, settings }, author))
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
  { name, protocol, settings }: { name: string | undefined; protocol: Protocol; settings: ConnectionSettings },
  author: Author,
): Promise<number> {
  const called = name || `${PROTOCOLS[protocol]}, ${settings.path ?? settings.host ?? ''}`
  const [made] = await tx.insert(connections).values({ name: called, protocol, settings }).returning()
  await noteDone(tx, { subject: 'site', id: null }, author, `Connection added: ${called}`)
  return (made as { id: number }).id
}

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
  { name, settings }: { name: string; settings: ConnectionSettings },
  author: Author,
): Promise<void> {
  await db.transaction(async (tx) => {
    const before = await connectionOf(tx, id)
    checkSettings(before.protocol, settings)
    await tx.update(connections).set({ name, settings }).where(eq(connections.id, id))
    const changed = JSON.stringify(settings) === JSON.stringify(before.settings) ? 'renamed' : 'changed'
    const was = before.name === name ? '' : `, before ${before.name}`
    await noteDone(tx, { subject: 'site', id: null }, author, `Connection ${changed}: ${name}${was}`)
  })
  await links.follow()
}

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
