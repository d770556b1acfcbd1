/** A column of a table: what it is called, what it says of a row; what needs more than words stands in its slot. */
export interface TableColumn<R> {
  id: string
  name: string
  text?: (row: R) => string | number
  /** Numbers stand right, under one another. */
  numeric?: boolean
  title?: string
  width?: string
  /** The heading is read but not seen. */
  silent?: boolean
  pale?: (row: R) => boolean
  /** What a click on the heading sorts by. */
  sort?: (row: R) => string | number
}
