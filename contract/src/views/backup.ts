export interface BackupFile {
  file: string
  at: number
  bytes: number
  /** Whether it takes a passphrase to open it. */
  locked: boolean
}

export interface BackupView {
  settings: {
    folder: string
    nightly: boolean
    hour: number
    keepDays: number
    keepWeeks: number
    keepMonths: number
  }
  hasPassphrase: boolean
  /** Where they go, in full. */
  path: string
  /** Whether that is the disk of the data itself; null while the folder is not there. */
  sameDisk: boolean | null
  /** Those that were read back and are good, newest first. */
  files: BackupFile[]
  /** Why the last one was not made; null where it was. */
  problem: { at: number; text: string } | null
  running: boolean
  nextAt: number | null
}

/** A backup was found good, and takes the place of what is there while the server starts again. */
export interface RestoringView {
  site: string
  madeAt: number
}
