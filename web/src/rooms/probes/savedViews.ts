import type { SortingState } from '@tanstack/react-table'

/** How the fleet is looked at: what is typed into the filter, and by what it is sorted. */
export interface FleetLook {
  name: string
  filter: string
  sorting: SortingState
}

/** Views that everybody has. */
export const OUR_VIEWS: readonly FleetLook[] = [
  { name: 'All by name', filter: '', sorting: [{ id: 'position', desc: false }] },
  { name: 'Which dies first', filter: '', sorting: [{ id: 'end', desc: false }] },
  { name: 'Worst first', filter: '', sorting: [{ id: 'figure', desc: true }] },
]

const KEY = 'frustum-fleet-views'

export function savedViews(): FleetLook[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]')
    return Array.isArray(kept) ? (kept as FleetLook[]) : []
  } catch {
    return []
  }
}

/** Keeps a view under its name; one of the same name is replaced. */
export function saveView(look: FleetLook): FleetLook[] {
  const kept = [...savedViews().filter((v) => v.name !== look.name), look]
  try {
    localStorage.setItem(KEY, JSON.stringify(kept))
  } catch {
    // A browser that keeps nothing still sorts and filters.
  }
  return kept
}
