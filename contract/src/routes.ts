/** Paths of the API, below the server's own address. */
export const ROUTES = {
  site: '/api/site',
  rounds: '/api/rounds',
  live: '/api/live',
  probe: (position: string) => `/api/probes/${encodeURIComponent(position)}`,
  visits: '/api/visits',
  visit: (id: string) => `/api/visits/${id}`,
  visitAction: (id: string, action: string) => `/api/visits/${id}/${action}`,
  visitLive: (id: string) => `/api/visits/${id}/live`,
  standIn: (position: string) => `/api/standins/${encodeURIComponent(position)}`,
} as const
