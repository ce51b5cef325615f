import { createSelector, createSlice, type PayloadAction } from '@reduxjs/toolkit'

type ThemeChoice = 'system' | 'chalk' | 'lamp'

interface Person {
  /** The same for all tabs of this browser: one person at work. */
  clientId: string
  operator: string | null
  theme: ThemeChoice
  chime: boolean
  /** How this browser calls when an alarm is raised, while a tab of it is open. */
  calls: { sound: boolean; notification: boolean }
  /** In which unit temperatures are typed where none stands behind them. */
  fahrenheit: boolean
  /** Where temperatures were read from last. */
  readFrom: { from: 'device' | 'thermometer' | 'sensor' | 'fixed'; name: string }
}

const KEY = 'frustum-person'

function load(): Person {
  const fresh: Person = {
    clientId: newId(),
    operator: null,
    theme: 'system',
    chime: true,
    calls: { sound: false, notification: false },
    fahrenheit: false,
    readFrom: { from: 'device', name: '' },
  }
  try {
    return { ...fresh, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Person>) }
  } catch {
    return fresh
  }
}

/** randomUUID needs a secure context, which a tablet on the site's own network may not have. */
export function newId(): string {
  if (crypto.randomUUID) return crypto.randomUUID()
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = ((bytes[6] as number) & 0x0f) | 0x40
  bytes[8] = ((bytes[8] as number) & 0x3f) | 0x80
  const hex = Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}

export function keepPerson(person: Person): void {
  try {
    localStorage.setItem(KEY, JSON.stringify(person))
  } catch {
    // A browser that keeps nothing still works, until it is closed.
  }
}

const person = createSlice({
  name: 'person',
  initialState: load,
  reducers: {
    operatorChosen: (state, action: PayloadAction<string>) => {
      state.operator = action.payload
    },
    themeChosen: (state, action: PayloadAction<ThemeChoice>) => {
      state.theme = action.payload
    },
    chimeToggled: (state) => {
      state.chime = !state.chime
    },
    callsChosen: (state, action: PayloadAction<Partial<Person['calls']>>) => {
      Object.assign(state.calls, action.payload)
    },
    temperatureUnitChosen: (state, action: PayloadAction<boolean>) => {
      state.fahrenheit = action.payload
    },
    temperatureReadFrom: (state, action: PayloadAction<Person['readFrom']>) => {
      state.readFrom = action.payload
    },
  },
})

export const { operatorChosen, themeChosen, chimeToggled, callsChosen, temperatureUnitChosen, temperatureReadFrom } =
  person.actions
export default person.reducer

/** Who acts, for the body of every action. */
export const actorOf = createSelector(
  (state: { person: Person }) => state.person.clientId,
  (state: { person: Person }) => state.person.operator,
  (clientId, operator) => ({ clientId, operator: operator ?? 'Operator' }),
)
