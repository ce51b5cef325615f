import { lookup as lookUp } from 'node:dns'
import type { LookupFunction } from 'node:net'
import ipaddr from 'ipaddr.js'

/** Which addresses the server itself connects to, so that nobody reaches through it what they could not reach alone. */
export type Permits = (address: string) => boolean

const rangeOf = (address: string): string => (ipaddr.isValid(address) ? ipaddr.process(address).range() : 'invalid')

/** Ranges of a local network: devices are there. */
const LOCAL = ['private', 'loopback', 'uniqueLocal']
/** Services of a cloud provider's machines are at such addresses. */
const LINK_LOCAL = ['linkLocal', 'carrierGradeNat']

/** Devices: on the local network alone. @param linkLocal whether a lead allowed a link-local address for this host */
export const devicesOnly =
  (linkLocal: boolean): Permits =>
  (address) =>
    [...LOCAL, ...(linkLocal ? LINK_LOCAL : [])].includes(rangeOf(address))

/** Other services: anywhere on the local network or the internet. */
export const servicesOnly: Permits = (address) => [...LOCAL, 'unicast'].includes(rangeOf(address))

/** Set on the error of a connection that was refused. */
export const NOT_PERMITTED = 'NOT_PERMITTED'

/** Looks a name up once and connects to a permitted address of it: a name cannot change between check and connection. */
export const lookUpPermitted =
  (permits: Permits): LookupFunction =>
  (host, options, done) => {
    lookUp(host, { ...options, all: true }, (error, addresses) => {
      const permitted = (addresses ?? []).filter(({ address }) => permits(address))
      const [first] = permitted
      if (error || !first) {
        const why = error ?? Object.assign(new Error('address not permitted'), { code: NOT_PERMITTED })
        return (done as (error: Error, address: string, family: number) => void)(why, '', 0)
      }
      if (options.all) (done as (error: null, all: typeof permitted) => void)(null, permitted)
      else (done as (error: null, address: string, family: number) => void)(null, first.address, first.family)
    })
  }

/** Whether a URL's host may be connected to, as far as it tells by itself: figures are looked up by nobody. */
export function mayBePermitted({ hostname }: URL, permits: Permits): boolean {
  const bare = hostname.replace(/^\[|\]$/g, '')
  return !ipaddr.isValid(bare) || permits(bare)
}
