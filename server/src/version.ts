import manifest from '../package.json' with { type: 'json' }

/** Said in records: by which version they were made. */
export const PROGRAM_VERSION: string = manifest.version
