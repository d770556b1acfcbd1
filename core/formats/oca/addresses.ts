import type { Found } from './members'

/** A role as a part of an address: letters, digits, _ and -. */
const slug = ({ role, number }: Found) => role.replace(/[^\w-]+/g, '-').replace(/^-+|-+$/g, '') || `object-${number}`

/** Addresses of all objects below the root by their roles: `inputs/0/gain`. Two of one role are told apart. */
export function addressesOf(root: Found): ReadonlyMap<number, string> {
  const found = new Map<number, string>([[root.number, '']])
  const name = (owner: Found, above: string) => {
    const taken = new Set<string>()
    for (const member of owner.members) {
      let own = slug(member)
      for (let n = 2; taken.has(own); n++) own = `${slug(member)}-${n}`
      taken.add(own)
      const address = above ? `${above}/${own}` : own
      found.set(member.number, address)
      name(member, address)
    }
  }
  name(root, '')
  return found
}
