import { configureStore, createListenerMiddleware, isRejectedWithValue } from '@reduxjs/toolkit'
import { setupListeners } from '@reduxjs/toolkit/query'
import { useDispatch, useSelector } from 'react-redux'
import { api } from './api.ts'
import outbox, { keepOutbox } from './outbox.ts'
import person, { keepPerson } from './person.ts'

/** Whoever was signed out meanwhile is asked to sign in, whatever they were about to do. */
const signedOut = createListenerMiddleware()
signedOut.startListening({
  matcher: isRejectedWithValue,
  effect: ({ payload }, { dispatch }) => {
    if ((payload as { status?: unknown } | undefined)?.status === 401) dispatch(api.util.invalidateTags(['me']))
  },
})

export const store = configureStore({
  reducer: { person, outbox, [api.reducerPath]: api.reducer },
  middleware: (defaults) => defaults().prepend(signedOut.middleware).concat(api.middleware),
})

// Coming back to the tab or the network fetches what is stale.
setupListeners(store.dispatch)

let kept: unknown = null
let keptOutbox: unknown = null
store.subscribe(() => {
  const { person: now, outbox: waiting } = store.getState()
  if (now !== kept) keepPerson(now)
  if (waiting !== keptOutbox) keepOutbox(waiting.waiting)
  kept = now
  keptOutbox = waiting
})
keepPerson(store.getState().person)

export type RootState = ReturnType<typeof store.getState>
export const useAppSelector = useSelector.withTypes<RootState>()
export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>()
