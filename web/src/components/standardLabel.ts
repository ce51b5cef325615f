import { standardOf } from '@frustum/core'

/** Apart from the other formats: it brings the standards of all kinds with it, which the first screen does without. */
export const standardLabel = (code: string) => standardOf(code).label
