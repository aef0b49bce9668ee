import type { Where } from '../rule.ts'

/** Where something reaches as a form has it: a kind, and which of that kind. */
export interface WhereFields {
  readonly whereKind: string
  readonly whereValue: string
}

/** @returns `null` when it is not said which; what is no kind reaches everywhere */
export function whereFromFields({ whereKind: kind, whereValue }: WhereFields): Where | null {
  const value = whereValue.trim()
  switch (kind) {
    case 'tag':
      return value === '' ? null : { kind, tag: value }
    case 'cluster':
      return value === '' ? null : { kind, name: value }
    case 'room':
    case 'rack':
    case 'group':
    case 'gear':
    case 'part':
      return /^\d+$/.test(value) ? { kind, id: Number(value) } : null
    default:
      return { kind: 'everywhere' }
  }
}

export function fieldsOfWhere(where: Where): WhereFields {
  const { kind: whereKind } = where
  switch (where.kind) {
    case 'everywhere':
      return { whereKind, whereValue: '' }
    case 'tag':
      return { whereKind, whereValue: where.tag }
    case 'cluster':
      return { whereKind, whereValue: where.name }
    default:
      return { whereKind, whereValue: String(where.id) }
  }
}
