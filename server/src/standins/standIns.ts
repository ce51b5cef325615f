import type { StandInBody } from '@frustum/contract'
import { BATHS } from '@frustum/demo'
import type { Logger } from 'pino'
import type { Database } from '../database/open.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { ModbusLink } from '../links/modbusLink.ts'
import { Problem } from '../problem.ts'
import { calibrationInForce, installedAt, installedSensors } from '../sensors.ts'
import type { LiveDesks } from '../visits/liveDesks.ts'

const noStandIn = () =>
  new Problem(409, 'not-a-stand-in', 'This sensor is a real one; only a stand-in can be played with.')

/** Plays with a stand-in: what its sensor is in, what is wrong with it. */
export async function playStandIn(
  db: Database,
  live: LiveValues,
  desks: LiveDesks,
  code: string,
  body: StandInBody,
): Promise<{ bath: string; faults: number }> {
  const { device } = await installedAt(db, code)
  const link = live.link(code)
  if (!device.standIn || !(link instanceof ModbusLink)) throw noStandIn()
  if (body.bath !== undefined && !BATHS.includes(body.bath)) {
    throw new Problem(400, 'invalid', `There is no bath "${body.bath}".`)
  }
  const state = await tell(link, body).catch(() => {
    throw new Problem(502, 'device-silent', 'The stand-in does not answer.', {
      detail: 'Nothing of the visit is lost.',
      hint: 'Try again.',
    })
  })
  desks.standIns.set(code, state)
  return state
}

async function tell(link: ModbusLink, body: StandInBody): Promise<{ bath: string; faults: number }> {
  if (body.faults !== undefined) await link.writeStandIn('faults', body.faults)
  if (body.simulate) {
    await link.simulate(body.simulate.signal, body.simulate.temperature)
    await link.putInto('simulator')
  }
  if (body.bath !== undefined) await link.putInto(body.bath)
  if (body.wipe) await link.writeStandIn('wipe', 1)
  if (body.keyIn) await link.writeCalibration(body.keyIn)
  return link.standIn()
}

/** At start: stand-ins have no memory of their own, so each is given the calibration that its record says is in force. */
export async function wakeStandIns(db: Database, live: LiveValues, desks: LiveDesks, log: Logger): Promise<void> {
  for (const { device, position, installation } of await installedSensors(db)) {
    const link = live.link(position.code)
    if (!device.standIn || !(link instanceof ModbusLink)) continue
    try {
      await link.writeCalibration(await calibrationInForce(db, installation.id, position.kind))
      desks.standIns.set(position.code, await link.standIn())
    } catch (error) {
      log.warn({ position: position.code, why: String(error) }, 'stand-in not woken')
    }
  }
}
