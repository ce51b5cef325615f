import { type BringOptions, ENDPOINTS } from '@frustum/contract'
import { Router } from 'express'
import { array, boolean, number, object, string } from 'yup'
import type { RouteContext } from '../http/routeContext.ts'
import { accept } from '../http/serve.ts'
import { readBody } from '../http/validate.ts'
import { Problem } from '../problem.ts'
import { bringSensors } from './sensors.ts'
import { exportSetUp, importSetUp } from './setUpFile.ts'

const options = object({
  sheet: number().integer().min(0).default(0),
  columns: object().nullable().default(null),
  place: string().trim().max(80).default(''),
  water: string().max(40).default(''),
  adjustsBy: string().oneOf(['key', 'numbers', 'nothing']).default('key'),
  inUse: boolean().default(true),
  leaveOut: boolean().default(false),
  take: boolean().default(false),
}).noUnknown()

const columnNumbers = array(number().integer().min(0).max(100).nullable())

/** What people have already, brought in from their files. */
export function bringRoutes({ db, clock }: RouteContext) {
  const router = Router()
  const author = (query: Record<string, unknown>) => {
    const operator = String(query.operator ?? '')
      .trim()
      .slice(0, 80)
    if (operator === '') throw new Problem(400, 'invalid', 'Say who takes it in.')
    return { operator, at: new Date(clock.now()) }
  }
  accept(router, ENDPOINTS.bringSensors, null, async ({ body, query }) => {
    const file: unknown = body
    if (!Buffer.isBuffer(file) || file.length === 0) {
      throw new Problem(400, 'no-file', 'There is no file.', { hint: 'Choose a CSV or XLSX file.' })
    }
    const asked = await readBody(options, parsed(query.options))
    await readBody(object({ columns: columnNumbers }), { columns: Object.values(asked.columns ?? {}) })
    const name = String(query.name ?? '').slice(0, 200)
    return bringSensors(db, { bytes: file, name }, asked as BringOptions, author(query))
  })
  router.get(ENDPOINTS.exportSetUp.path, async (_req, res) => {
    res.attachment('frustum-set-up.json').json(await exportSetUp(db, new Date(clock.now())))
  })
  accept(router, ENDPOINTS.importSetUp, null, async ({ body, query }) => ({
    sensors: await importSetUp(db, body, author(query)),
  }))
  return router
}

function parsed(text: unknown): unknown {
  try {
    return JSON.parse(String(text ?? '{}'))
  } catch {
    throw new Problem(400, 'invalid', 'The request cannot be read.')
  }
}
