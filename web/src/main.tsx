import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { RoundsRoom } from './rooms/rounds/RoundsRoom.tsx'
import { Lost } from './shell/Lost.tsx'
import { only } from './shell/only.tsx'
import { Shell } from './shell/Shell.tsx'
import { store } from './store/store.ts'
import './theme/theme.css'

// Rounds is what everybody sees first; the other rooms come when they are entered.
const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    errorElement: <Lost />,
    hydrateFallbackElement: <p className="p-8">Loading</p>,
    children: [
      { index: true, element: <RoundsRoom /> },
      {
        path: 'bench',
        lazy: async () => ({ Component: (await import('./rooms/bench/BenchDoor.tsx')).BenchDoor }),
      },
      {
        path: 'bench/start/:position',
        lazy: async () => ({ Component: only('operator', (await import('./rooms/bench/StartVisit.tsx')).StartVisit) }),
      },
      {
        path: 'bench/:id',
        lazy: async () => ({ Component: (await import('./rooms/bench/BenchRoom.tsx')).BenchRoom }),
      },
      {
        path: 'probes',
        lazy: async () => ({ Component: (await import('./rooms/probes/ProbesRoom.tsx')).ProbesRoom }),
      },
      {
        path: 'probes/compare',
        lazy: async () => ({ Component: (await import('./rooms/probes/ComparePage.tsx')).ComparePage }),
      },
      {
        path: 'probes/:position/past/:visit',
        lazy: async () => ({ Component: (await import('./rooms/probes/PastPage.tsx')).PastPage }),
      },
      {
        path: 'probes/:position',
        lazy: async () => ({ Component: (await import('./rooms/probes/ProbePage.tsx')).ProbePage }),
      },
      ...['reckoner', 'reckoner/:sheet'].map((path) => ({
        path,
        lazy: async () => ({ Component: (await import('./rooms/reckoner/ReckonerRoom.tsx')).ReckonerRoom }),
      })),
      {
        path: 'trips/new',
        lazy: async () => ({ Component: only('operator', (await import('./rooms/trips/NewTrip.tsx')).NewTrip) }),
      },
      {
        path: 'trips/:id',
        lazy: async () => ({ Component: (await import('./rooms/trips/TripRoom.tsx')).TripRoom }),
      },
      {
        path: 'probes/:position/readings',
        lazy: async () => ({ Component: (await import('./rooms/readings/ReadingsPage.tsx')).ReadingsPage }),
      },
      {
        path: 'walk/:id',
        lazy: async () => ({ Component: (await import('./rooms/walk/WalkPage.tsx')).WalkPage }),
      },
      {
        path: 'site/told',
        lazy: async () => ({ Component: (await import('./rooms/telling/TellingPage.tsx')).TellingPage }),
      },
      {
        path: 'alarms',
        lazy: async () => ({ Component: (await import('./rooms/alarms/AlarmsPage.tsx')).AlarmsPage }),
      },
      {
        path: 'alarms/history',
        lazy: async () => ({ Component: (await import('./rooms/alarms/AlarmHistoryPage.tsx')).AlarmHistoryPage }),
      },
      {
        path: 'plan',
        lazy: async () => ({ Component: (await import('./rooms/plan/PlanRoom.tsx')).PlanRoom }),
      },
      {
        path: 'shelf',
        lazy: async () => ({ Component: (await import('./rooms/shelf/ShelfRoom.tsx')).ShelfRoom }),
      },
      {
        path: 'shelf/labels',
        lazy: async () => ({ Component: (await import('./rooms/shelf/LabelsPage.tsx')).LabelsPage }),
      },
      {
        path: 'ledger',
        lazy: async () => ({ Component: (await import('./rooms/ledger/LedgerRoom.tsx')).LedgerRoom }),
      },
      {
        path: 'ledger/report',
        lazy: async () => ({ Component: (await import('./rooms/ledger/ReportPage.tsx')).ReportPage }),
      },
      {
        path: 'ledger/:id',
        lazy: async () => ({ Component: (await import('./rooms/ledger/RecordPage.tsx')).RecordPage }),
      },
      {
        path: 'set-up',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/setUp/SetUp.tsx')).SetUp) }),
      },
      {
        path: 'bring',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/bring/BringRoom.tsx')).BringRoom) }),
      },
      {
        path: 'rig',
        lazy: async () => ({ Component: (await import('./rooms/rig/RigRoom.tsx')).RigRoom }),
      },
      {
        path: 'rig/add',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/setUp/SetUp.tsx')).AddSensor) }),
      },
      {
        path: 'rig/:subject/:id/copy',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/setUp/SetUp.tsx')).CopyThing) }),
      },
      {
        path: 'rig/connection/:id',
        lazy: async () => ({ Component: (await import('./rooms/connections/ConnectionPage.tsx')).ConnectionPage }),
      },
      {
        path: 'rig/position/:id/line',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/connections/LinePage.tsx')).LinePage) }),
      },
      {
        path: 'rig/:subject/new',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/rig/NewThing.tsx')).NewThing) }),
      },
      {
        path: 'rig/:subject/:id',
        lazy: async () => ({ Component: (await import('./rooms/rig/ThingPage.tsx')).ThingPage }),
      },
      {
        path: 'site',
        lazy: async () => ({ Component: (await import('./rooms/site/SiteRoom.tsx')).SiteRoom }),
      },
      {
        path: 'site/changes',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/site/ChangesPage.tsx')).ChangesPage) }),
      },
      {
        path: 'site/backup',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/site/BackupPage.tsx')).BackupPage) }),
      },
      {
        path: 'put-back',
        lazy: async () => ({ Component: only('lead', (await import('./rooms/setUp/PutBack.tsx')).PutBack) }),
      },
      {
        path: 'me',
        lazy: async () => ({ Component: (await import('./rooms/people/MePage.tsx')).MePage }),
      },
      { path: '*', element: <Lost /> },
    ],
  },
  {
    // For who is told by mail, and perhaps never signs in.
    path: '/stop/:token',
    errorElement: <Lost />,
    hydrateFallbackElement: <p className="p-8">Loading</p>,
    lazy: async () => ({ Component: (await import('./shell/StopPage.tsx')).StopPage }),
  },
])

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <Provider store={store}>
      <RouterProvider router={router} />
    </Provider>
  </StrictMode>,
)
