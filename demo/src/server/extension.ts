import { fileURLToPath } from 'node:url'
import { type CalibrationParameters, completed, modelOf, type SensorKind } from '@frustum/core'
import { BATHS, StandInControl, type StandInPorts, type StandInState } from '@frustum/lab/stand-ins'
import {
  calibrationsInForce,
  hashedToken,
  type Installed,
  installedAt,
  installedSensors,
  isUuid,
  notFound,
  Problem,
  readBody,
  type ServerContext,
  type ServerExtension,
  tables,
} from '@frustum/server/extending'
import { Router } from 'express'
import type { FleetSensor } from '../fleet/fleetSensor.ts'
import { fleet } from '../pellwick.ts'
import { makeUpStories, seedDemo } from '../seed/seed.ts'
import { type StandInBody, standInBody } from './contract.ts'
import { standInControls } from './controls.ts'

const WEB = fileURLToPath(new URL('../../dist', import.meta.url))

interface DemoParts {
  /** Where the stand-ins listen; they may still be starting. */
  standIns: StandInPorts | Promise<StandInPorts>
  /** What the logger of the station is known by. */
  loggerToken?: string
  /** The whole station unless told otherwise. */
  sensors?: readonly FleetSensor[]
  /** Makes the histories up at once, while the database is still opening: for a folder that holds none yet. */
  ahead?: boolean
  /** Told what is being done while it starts. */
  onProgress?: (what: string) => void
}

/** Pellwick Shore Station as an extension of the server: its data, and hands for its stand-in transmitters. */
export function demoExtension({
  standIns,
  loggerToken,
  sensors = fleet(),
  ahead = false,
  onProgress = () => undefined,
}: DemoParts): ServerExtension {
  const early = ahead ? makeUpStories(sensors, Date.now(), onProgress) : null
  const controls = new Map<string, StandInControl>()
  return {
    name: 'demo',
    web: { folder: WEB, entry: 'strip.js' },
    prepare: async ({ db, clock }) =>
      seedDemo(db, {
        standIns: await standIns,
        stories: () => early ?? makeUpStories(sensors, clock.now(), onProgress),
        onProgress,
      }),
    start: async (context) => {
      onProgress('Connecting the stand-ins')
      const { port } = await standIns
      const played = (await installedSensors(context.db)).flatMap((installed) => {
        const { unit = null } = sensors.find((s) => s.code === installed.position.code) ?? {}
        return installed.device.connectionId !== null && unit !== null ? [{ installed, unit }] : []
      })
      if (loggerToken) await giveToken(context, loggerToken)
      for (const { installed, unit } of played)
        controls.set(installed.position.code, new StandInControl({ host: '127.0.0.1', port, unit }))
      // Stand-ins have no memory of their own: each is given the calibration that its record says is in force.
      const calibrations = await calibrationsInForce(
        context.db,
        played.map(({ installed }) => installed.installation.id),
        new Date(context.clock.now()),
      )
      await Promise.all(
        played.map(({ installed }) =>
          wake(context, installed, {
            calibration: completed(modelOf(installed.position.kind), calibrations.get(installed.installation.id) ?? {}),
            control: controls.get(installed.position.code),
          }),
        ),
      )
    },
    stop: async () => {
      for (const control of controls.values()) control.close()
    },
    routes: (context) => standInRoutes(context, controls),
  }
}

const WAKE_TRIES = 10

async function wake(
  { log }: ServerContext,
  { position }: Installed,
  { calibration, control }: { calibration: CalibrationParameters; control: StandInControl | undefined },
): Promise<void> {
  for (let tries = 1; control; tries++) {
    try {
      return await control.keyIn(position.kind, calibration)
    } catch (error) {
      // All of them are asked at once, while the server is still busy with its start.
      if (tries < WAKE_TRIES) continue
      log.warn({ position: position.code, why: String(error) }, 'stand-in not woken')
      return
    }
  }
}

/** The logger is known by another token each time the demo starts. */
async function giveToken({ db, clock }: ServerContext, token: string): Promise<void> {
  const [logger] = (await installedSensors(db)).filter(({ position }) => position.mapping?.format === 'senml')
  if (!logger) return
  const made = { token: hashedToken(token), madeAt: new Date(clock.now()), madeBy: 'The demo', usedAt: null }
  await db
    .insert(tables.ingestTokens)
    .values({ deviceId: logger.device.id, ...made })
    .onConflictDoUpdate({ target: tables.ingestTokens.deviceId, set: made })
}

function standInRoutes(context: ServerContext, controls: ReadonlyMap<string, StandInControl>) {
  const router = Router()
  const controlOf = (position: string) => {
    const control = controls.get(position)
    if (!control)
      throw new Problem(409, 'not-a-stand-in', 'This sensor is a real one; only a stand-in can be played with.')
    return control
  }
  router.get('/standins/:position', async (req, res) => {
    const control = controlOf(req.params.position)
    const { visit } = req.query
    if (!isUuid(visit)) throw notFound('visit')
    const view = await context.desk.view(visit)
    const offered = standInControls(view.kind, view.procedure, view.standards)
    res.json({ ...offered, state: await answered(control.state()) })
  })
  router.post('/standins/:position', async (req, res) => {
    const control = controlOf(req.params.position)
    const body = await readBody(standInBody, req.body)
    if (body.bath !== undefined && !BATHS.includes(body.bath)) {
      throw new Problem(400, 'invalid', `There is no bath "${body.bath}".`)
    }
    res.json(await answered(play(control, (await installedAt(context.db, req.params.position)).position.kind, body)))
  })
  return router
}

async function play(control: StandInControl, kind: SensorKind, body: StandInBody): Promise<StandInState> {
  if (body.faults !== undefined) await control.setFaults(body.faults)
  if (body.simulate) {
    await control.simulate(body.simulate.signal, body.simulate.temperature)
    await control.putInto('simulator')
  }
  if (body.bath !== undefined) await control.putInto(body.bath)
  if (body.wipe) await control.wipe()
  if (body.keyIn) await control.keyIn(kind, body.keyIn)
  return control.state()
}

const answered = <T>(asked: Promise<T>): Promise<T> =>
  asked.catch(() => {
    throw new Problem(502, 'device-silent', 'The stand-in does not answer.', {
      detail: 'Nothing of the visit is lost.',
      hint: 'Try again.',
    })
  })
