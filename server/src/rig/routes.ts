import {
  addPositionBody,
  addThingBody,
  archiveBody,
  copyBody,
  ENDPOINTS,
  editThingBody,
  inUseBody,
  moveSensorBody,
  movesBody,
  operatorBody,
} from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { followOwnStandards } from '../shelf/ownStandards.ts'
import { addPosition, addThing, putInUse } from './add.ts'
import { copyPositions } from './copy.ts'
import { archiveThing, deleteThing, editThing, movesOf, subjectOf, thingOf, thingView, undoEdit } from './edit.ts'
import { swapSensors, takeToStore } from './sensorMoves.ts'
import { rig, rigNow } from './tree.ts'

/** The devices, positions and people of a site: all of it can be added, changed, put away and taken back. */
export function rigRoutes({ db, live, clock }: RouteContext) {
  const router = Router()
  const now = () => new Date(clock.now())
  serve(router, ENDPOINTS.rig, () => rigNow(db, live, clock.now()))
  accept(router, ENDPOINTS.addPosition, addPositionBody, ({ body }) => addPosition(db, body, now()))
  accept(router, ENDPOINTS.copyPositions, copyBody, ({ body }) => copyPositions(db, body, now()))
  accept(router, ENDPOINTS.putInUse, inUseBody, async ({ params, body }) => ({
    position: await putInUse(db, params.id, body, now()),
  }))
  accept(router, ENDPOINTS.moveSensor, moveSensorBody, async ({ params, body }) => {
    const position = await thingOf(db, 'position', params.id)
    const { operator, swapWith, storage } = body
    const author = { operator, at: now() }
    if (swapWith === undefined) await takeToStore(db, position.id as number, storage ?? '', author)
    else await swapSensors(db, position.id as number, swapWith, author)
    return thingView(db, 'position', params.id)
  })
  accept(router, ENDPOINTS.addThing, addThingBody, async ({ params, body }) => {
    const subject = subjectOf(params.subject)
    const id = await addThing(db, subject, body, now())
    await followOwnStandards(db)
    return thingView(db, subject, String(id))
  })
  serve(router, ENDPOINTS.thing, ({ params }) => thingView(db, subjectOf(params.subject), params.id))
  accept(router, ENDPOINTS.editThing, editThingBody, async ({ params, body }) => {
    const subject = subjectOf(params.subject)
    const before = await thingOf(db, subject, params.id)
    await editThing(db, subject, params.id, body, now())
    await followOwnStandards(db)
    const after = await thingOf(db, subject, params.id)
    if (subject === 'position' && before.stored.code !== after.stored.code) {
      live.rename(String(before.stored.code), String(after.stored.code))
    }
    return thingView(db, subject, params.id)
  })
  accept(router, ENDPOINTS.moves, movesBody, ({ params, body }) =>
    movesOf(db, subjectOf(params.subject), params.id, body, clock.now()),
  )
  accept(router, ENDPOINTS.archiveThing, archiveBody, async ({ params, body }) => {
    const subject = subjectOf(params.subject)
    await archiveThing(db, subject, params.id, body.archived, { ...body, at: now() })
    await followOwnStandards(db)
    return thingView(db, subject, params.id)
  })
  accept(router, ENDPOINTS.deleteThing, operatorBody, async ({ params }) => {
    await deleteThing(db, subjectOf(params.subject), params.id)
    await followOwnStandards(db)
    return rig(db, live, clock.now())
  })
  accept(router, ENDPOINTS.undoThing, operatorBody, async ({ params, body }) => {
    const subject = subjectOf(params.subject)
    const before = await thingOf(db, subject, params.id)
    await undoEdit(db, subject, params.id, rowNumber(params.change, 'change'), { ...body, at: now() })
    await followOwnStandards(db)
    const after = await thingOf(db, subject, params.id)
    if (subject === 'position' && before.stored.code !== after.stored.code) {
      live.rename(String(before.stored.code), String(after.stored.code))
    }
    return thingView(db, subject, params.id)
  })
  return router
}
