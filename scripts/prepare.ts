import { prepareTemplate } from '@frustum/server'
import './build.ts'

/** Part of the installation: what the first start would have to wait for. A failure here is told again at the start. */
await prepareTemplate().catch((error: Error) => console.warn(error.message))
