/** A method of a class: the level that defines it, its number there, and the types that it takes and gives. */
export interface Method<Takes extends readonly unknown[], Gives extends readonly unknown[]> {
  level: number
  index: number
  takes: Takes
  gives: Gives
}
/** A property of a class, as its changes are told. */
export interface Property<Type> {
  level: number
  index: number
  type: Type
}
type Methods = Readonly<Record<string, Method<readonly unknown[], readonly unknown[]>>>
type Properties = Readonly<Record<string, Property<unknown>>>

/** A class of AES70 with all that it has of those above it. */
export interface OcaClass<M extends Methods = Methods, P extends Properties = Properties> {
  /** Class id with dots between its fields: 1.1.1.5. */
  id: string
  version: number
  methods: M
  properties: P
}

export const m = <const T extends readonly unknown[], const G extends readonly unknown[]>(
  level: number, index: number, takes: T, gives: G,
): Method<T, G> => ({ level, index, takes, gives })
export const p = <T>(level: number, index: number, type: T): Property<T> => ({ level, index, type })

export const noClass: OcaClass<Readonly<Record<never, never>>, Readonly<Record<never, never>>> = {
  id: '', version: 0, methods: {}, properties: {},
}

/** A class below another one: it has all of that, and its own. */
export const defineClass = <
  PM extends Methods, PP extends Properties, const M extends Methods, const P extends Properties,
>(
  id: string, version: number, parent: OcaClass<PM, PP>, methods: M, properties: P,
): OcaClass<PM & M, PP & P> =>
  ({ id, version, methods: { ...parent.methods, ...methods }, properties: { ...parent.properties, ...properties } })
