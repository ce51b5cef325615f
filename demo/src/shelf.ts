/** What stands on the shelf of the station: lots of standards, opened and closed, one of them past its date. */
export interface ShelfLot {
  standard: string
  lot: string
  expiresInDays: number
  openedDaysAgo: number | null
  keepsDays: number
  volume: number
  left: number
  storage: string
}

const ROOM = 'Room, dark'
const COLD = '4 to 8 °C, dark'

export const SHELF: readonly ShelfLot[] = [
  {
    standard: 'pH7.00',
    lot: '7-24C',
    expiresInDays: 210,
    openedDaysAgo: 12,
    keepsDays: 90,
    volume: 500,
    left: 310,
    storage: ROOM,
  },
  {
    standard: 'pH7.00',
    lot: '7-24D',
    expiresInDays: 330,
    openedDaysAgo: null,
    keepsDays: 90,
    volume: 500,
    left: 500,
    storage: ROOM,
  },
  {
    standard: 'pH10.01',
    lot: '10-24A',
    expiresInDays: 150,
    openedDaysAgo: 9,
    keepsDays: 30,
    volume: 250,
    left: 130,
    storage: ROOM,
  },
  {
    standard: 'pH4.01',
    lot: '4-23K',
    expiresInDays: 4,
    openedDaysAgo: 40,
    keepsDays: 90,
    volume: 500,
    left: 90,
    storage: ROOM,
  },
  {
    standard: 'pH9.21',
    lot: '9-22F',
    expiresInDays: -18,
    openedDaysAgo: 70,
    keepsDays: 90,
    volume: 250,
    left: 60,
    storage: ROOM,
  },
  {
    standard: 'seawater-53',
    lot: 'SW-53-11',
    expiresInDays: 400,
    openedDaysAgo: 33,
    keepsDays: 120,
    volume: 1000,
    left: 640,
    storage: ROOM,
  },
  {
    standard: 'kcl-2.77',
    lot: 'K277-08',
    expiresInDays: 260,
    openedDaysAgo: 28,
    keepsDays: 90,
    volume: 500,
    left: 160,
    storage: ROOM,
  },
  {
    standard: 'kcl-1413',
    lot: 'K1413-19',
    expiresInDays: 300,
    openedDaysAgo: 20,
    keepsDays: 90,
    volume: 500,
    left: 300,
    storage: ROOM,
  },
  {
    standard: 'zobell',
    lot: 'ZB-05',
    expiresInDays: 120,
    openedDaysAgo: 40,
    keepsDays: 90,
    volume: 250,
    left: 95,
    storage: 'Room, dark, locked',
  },
  {
    standard: 'chloride-319',
    lot: 'CL-H-02',
    expiresInDays: 200,
    openedDaysAgo: 22,
    keepsDays: 180,
    volume: 500,
    left: 320,
    storage: ROOM,
  },
  {
    standard: 'chloride-46.2',
    lot: 'CL-L-02',
    expiresInDays: 200,
    openedDaysAgo: 22,
    keepsDays: 180,
    volume: 500,
    left: 340,
    storage: ROOM,
  },
  {
    standard: 'nitrate-100N',
    lot: 'NO-H-07',
    expiresInDays: 90,
    openedDaysAgo: 22,
    keepsDays: 60,
    volume: 250,
    left: 120,
    storage: COLD,
  },
  {
    standard: 'nitrate-1N',
    lot: 'NO-L-07',
    expiresInDays: 25,
    openedDaysAgo: 22,
    keepsDays: 60,
    volume: 250,
    left: 110,
    storage: COLD,
  },
]
