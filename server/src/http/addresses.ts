import { hostname, networkInterfaces } from 'node:os'

/** Addresses of this machine in its networks, those of the usual kind (IPv4) first; without its own loopback. */
export const ownAddresses = (): string[] =>
  Object.values(networkInterfaces())
    .flatMap((all) => all ?? [])
    .filter((a) => !a.internal && !a.scopeid)
    .sort((a, b) => Number(a.family === 'IPv6') - Number(b.family === 'IPv6'))
    .map((a) => a.address.toLowerCase())

/** Names under which a network may know this machine. */
export function ownNames(): string[] {
  const name = hostname().toLowerCase()
  return name.includes('.') ? [name] : [name, `${name}.local`]
}
