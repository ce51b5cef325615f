import {
  type BringLogOptions,
  type BringOptions,
  type BringPastOptions,
  ENDPOINTS,
  LOG_PARTS,
  PAST_QUESTIONS,
  type PastQuestion,
} from '@frustum/contract'
import { Router } from 'express'
import { type AnyObjectSchema, array, boolean, number, object, string } from 'yup'
import { fileIn } from '../http/fileIn.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, serve } from '../http/serve.ts'
import { readBody } from '../http/validate.ts'
import { Problem } from '../problem.ts'
import { followOwnStandards } from '../shelf/ownStandards.ts'
import { bringLog, logProgress } from './log/log.ts'
import { bringPast, importProgress } from './past.ts'
import { bringSensors } from './sensors.ts'
import { exportSetUp, importSetUp } from './setUpFile.ts'
import { reportOf, takenFiles } from './takenFiles.ts'

const options = object({
  sheet: number().integer().min(0).default(0),
  headingRow: number().integer().min(1).max(1000).nullable().default(null),
  columns: object().nullable().default(null),
  place: string().trim().max(80).default(''),
  water: string().max(40).default(''),
  adjustsBy: string().oneOf(['key', 'numbers', 'nothing']).default('key'),
  inUse: boolean().default(true),
  leaveOut: boolean().default(false),
  take: boolean().default(false),
}).noUnknown()

const oneOf = (question: PastQuestion) =>
  string()
    .nullable()
    .oneOf([null, ...Object.keys(PAST_QUESTIONS[question].choices)])
    .default(null)

const pastOptions = object({
  sheet: number().integer().min(0).default(0),
  headingRow: number().integer().min(1).max(1000).nullable().default(null),
  sensor: string().max(60).nullable().default(null),
  columns: object().nullable().default(null),
  dateOrder: oneOf('dateOrder'),
  slopeIn: oneOf('slopeIn'),
  zeroIn: oneOf('zeroIn'),
  without: oneOf('without'),
  leaveOut: boolean().default(false),
  take: boolean().default(false),
}).noUnknown()

const zeroOn = number().integer().min(0).max(100).nullable().default(null)
const logOptions = object({
  sheet: number().integer().min(0).default(0),
  columns: object({ time: zeroOn, clock: zeroOn, name: zeroOn, value: zeroOn }).nullable().default(null),
  channels: array(
    object({
      name: string().max(200).required(),
      position: string().max(80).nullable().default(null),
      unit: string().max(20).default(''),
      of: string().oneOf(LOG_PARTS).default('reading'),
    }),
  )
    .max(200)
    .nullable()
    .default(null),
  dateOrder: string().nullable().oneOf([null, 'dmy', 'mdy']).default(null),
  timeZone: string().max(60).nullable().default(null),
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
    const file = fileOf(body, query)
    const asked = await readOptions(options, query)
    return bringSensors(db, file, asked as BringOptions, author(query))
  })
  accept(router, ENDPOINTS.bringPast, null, async ({ body, query }) => {
    const file = fileOf(body, query)
    const asked = await readOptions(pastOptions, query)
    return bringPast(db, file, asked as BringPastOptions, author(query))
  })
  accept(router, ENDPOINTS.bringLog, null, async ({ body, query }) => {
    const file = fileOf(body, query, 'Choose the CSV, XLSX or SenML file of a logger.')
    const asked = await readBody(logOptions, parsed(query.options))
    return bringLog(db, file, asked as BringLogOptions, author(query))
  })
  serve(router, ENDPOINTS.takenFiles, () => takenFiles(db))
  router.get(ENDPOINTS.takenFileReport.path, async (req, res) => {
    const text = await reportOf(db, req.params.id as string)
    res.attachment('frustum-report.csv').type('text/csv').send(text)
  })
  serve(router, ENDPOINTS.bringProgress, () => importProgress() ?? logProgress())
  router.get(ENDPOINTS.exportSetUp.path, async (_req, res) => {
    res.attachment('frustum-set-up.json').json(await exportSetUp(db, new Date(clock.now())))
  })
  accept(router, ENDPOINTS.importSetUp, null, async ({ body, query }) => {
    const sensors = await importSetUp(db, fileOf(body, query, 'Choose a set-up that was saved by Frustum.'), {
      ...author(query),
      take: query.take !== 'false',
    })
    await followOwnStandards(db)
    return { sensors }
  })
  return router
}

const fileOf = (body: unknown, query: Record<string, unknown>, hint = 'Choose a CSV or XLSX file.') => ({
  bytes: fileIn(body, hint),
  name: String(query.name ?? '').slice(0, 200),
})

async function readOptions(schema: AnyObjectSchema, query: Record<string, unknown>): Promise<object> {
  const asked: { columns?: object | null } = await readBody(schema, parsed(query.options))
  await readBody(object({ columns: columnNumbers }), { columns: Object.values(asked.columns ?? {}) })
  return asked
}

function parsed(text: unknown): unknown {
  try {
    return JSON.parse(String(text ?? '{}'))
  } catch {
    throw new Problem(400, 'invalid', 'The request cannot be read.')
  }
}
