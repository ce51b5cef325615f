import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import type { Acting, VisitAction } from './visitAction.ts'

/** An action that the network did not take; it waits here, over a reload too, and is sent when it is back. */
export type Waiting = VisitAction & Acting

const KEY = 'frustum-outbox'

function load(): Waiting[] {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '[]') as Waiting[]
    return Array.isArray(kept) ? kept : []
  } catch {
    return []
  }
}

export function keepOutbox(waiting: readonly Waiting[]): void {
  try {
    localStorage.setItem(KEY, JSON.stringify(waiting))
  } catch {
    // A browser that keeps nothing still sends it while the page is open.
  }
}

const outbox = createSlice({
  name: 'outbox',
  initialState: () => ({ waiting: load() }),
  reducers: {
    put: (state, action: PayloadAction<Waiting>) => {
      state.waiting.push(action.payload)
    },
    sent: (state, action: PayloadAction<string>) => {
      state.waiting = state.waiting.filter((w) => w.actionId !== action.payload)
    },
  },
})

export const { put, sent } = outbox.actions
export default outbox.reducer
