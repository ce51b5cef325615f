import { fileURLToPath } from 'node:url'
import type { CalibrationParameters } from '@frustum/core'
import {
  calibrationsInForce,
  type Installed,
  installedSensors,
  isUuid,
  notFound,
  Problem,
  readBody,
  type ServerContext,
  type ServerExtension,
  tables,
} from '@frustum/server/extending'
import { BATHS, StandInControl, type StandInState } from '@frustum/standins'
import { Router } from 'express'
import type { FleetSensor } from '../fleet/fleetSensor.ts'
import { fleet } from '../pellwick.ts'
import { makeUpStories, seedDemo } from '../seed/seed.ts'
import { type StandInBody, standInBody } from './contract.ts'
import { standInControls } from './controls.ts'

const WEB = fileURLToPath(new URL('../../dist', import.meta.url))

interface DemoParts {
  /** Where the stand-ins listen; they may still be starting. */
  standInPort: number | Promise<number>
  /** The whole station unless told otherwise. */
  sensors?: readonly FleetSensor[]
  /** Makes the histories up at once, while the database is still opening: for a folder that holds none yet. */
  ahead?: boolean
  /** Told what is being done while it starts. */
  onProgress?: (what: string) => void
}

/** Pellwick Shore Station as an extension of the server: its data, and hands for its stand-in transmitters. */
export function demoExtension({
  standInPort,
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
        standInPort: await standInPort,
        stories: () => early ?? makeUpStories(sensors, clock.now(), onProgress),
        onProgress,
      }),
    start: async (context) => {
      onProgress('Connecting the stand-ins')
      const port = await standInPort
      const [connection] = (await context.db.select().from(tables.connections)).filter(
        ({ settings }) => settings.port === port,
      )
      const standIns = (await installedSensors(context.db)).flatMap((installed) => {
        const { unit = null } = sensors.find((s) => s.code === installed.position.code) ?? {}
        return connection && installed.device.connectionId === connection.id && unit !== null
          ? [{ installed, unit }]
          : []
      })
      for (const { installed, unit } of standIns)
        controls.set(installed.position.code, new StandInControl({ host: '127.0.0.1', port, unit }))
      // Stand-ins have no memory of their own: each is given the calibration that its record says is in force.
      const calibrations = await calibrationsInForce(
        context.db,
        standIns.map(({ installed }) => ({ id: installed.installation.id, kind: installed.position.kind })),
        new Date(context.clock.now()),
      )
      await Promise.all(
        standIns.map(({ installed }) => wake(context, installed, calibrations.get(installed.installation.id))),
      )
    },
    stop: async () => {
      for (const control of controls.values()) control.close()
    },
    routes: (context) => standInRoutes(context, controls),
  }
}

async function wake(
  { links, log }: ServerContext,
  { position }: Installed,
  calibration: CalibrationParameters | undefined,
): Promise<void> {
  try {
    if (calibration) await links.link(position.code)?.calibration?.write?.(calibration)
  } catch (error) {
    log.warn({ position: position.code, why: String(error) }, 'stand-in not woken')
  }
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
    res.json(await answered(play(control, context, req.params.position, body)))
  })
  return router
}

async function play(
  control: StandInControl,
  { links }: ServerContext,
  position: string,
  body: StandInBody,
): Promise<StandInState> {
  if (body.faults !== undefined) await control.setFaults(body.faults)
  if (body.simulate) {
    await control.simulate(body.simulate.signal, body.simulate.temperature)
    await control.putInto('simulator')
  }
  if (body.bath !== undefined) await control.putInto(body.bath)
  if (body.wipe) await control.wipe()
  if (body.keyIn) await links.link(position)?.calibration?.write?.(body.keyIn)
  return control.state()
}

const answered = <T>(asked: Promise<T>): Promise<T> =>
  asked.catch(() => {
    throw new Problem(502, 'device-silent', 'The stand-in does not answer.', {
      detail: 'Nothing of the visit is lost.',
      hint: 'Try again.',
    })
  })
