import { configureStore } from '@reduxjs/toolkit'
import { setupListeners } from '@reduxjs/toolkit/query'
import { useDispatch, useSelector } from 'react-redux'
import { api } from './api.ts'
import person, { keepPerson } from './person.ts'

export const store = configureStore({
  reducer: { person, [api.reducerPath]: api.reducer },
  middleware: (defaults) => defaults().concat(api.middleware),
})

// Coming back to the tab or the network fetches what is stale.
setupListeners(store.dispatch)

let kept: unknown = null
store.subscribe(() => {
  const now = store.getState().person
  if (now === kept) return
  kept = now
  keepPerson(now)
})
keepPerson(store.getState().person)

export type RootState = ReturnType<typeof store.getState>
export const useAppSelector = useSelector.withTypes<RootState>()
export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>()
