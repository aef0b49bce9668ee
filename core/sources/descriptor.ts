import type { CredentialKind } from './credential.ts'

/** A field of the form by which a source is connected, beyond its address and credential. */
export interface SourceField {
  /** As the form sends it. */
  readonly name: string
  readonly label: string
  readonly control: 'text' | 'number' | 'choice'
  /** Of a choice: what is sent, and what is read. */
  readonly choices?: readonly (readonly [value: string, words: string])[]
  /** Filled in at first; `mapped` where a mapping is chosen, when that is another. */
  readonly value: string
  readonly mapped?: string
  readonly placeholder?: string
  /** Shown only while another field has this value. */
  readonly when?: { readonly field: string; readonly is: string }
  /** Where it stands in the settings of a source, as `look.table`; its own name when not said. */
  readonly setting?: string
  /** Its column in CSV; `null` where it has none. */
  readonly column: string | null
  /** Several are asked at one address and told apart by this. */
  readonly tellsApart?: true
}

/** What a source goes in with: always the same, by what one of its fields says, or nothing. */
export type CredentialChoice =
  | { readonly by: null; readonly kind: CredentialKind | null }
  | { readonly by: string; readonly kinds: Readonly<Record<string, CredentialKind | null>> }

/** Everything that screens and files have to know of a protocol. Plain data: it goes to the browser as it is. */
export interface ProtocolDescriptor {
  readonly protocol: string
  /** What it is for, in a list to choose from. */
  readonly label: string
  /** What a source speaks, in words; `{field}` stands for a setting. */
  readonly words: string
  /** Asked by us; otherwise it pushes to us. */
  readonly isPolled: boolean
  /** It sends notifications by itself, from the address at which it is asked. */
  readonly isNotifying: boolean
  /** Gear can be asked by it to stop. */
  readonly canStop?: true
  /** It may go over TLS, with an authority or a fingerprint of its own. */
  readonly hasTrust: boolean
  readonly addressPlaceholder: string
  readonly credential: CredentialChoice
  readonly fields: readonly SourceField[]
  /** What its own words need to be understood; `null` where they are clear. */
  readonly mapping: { readonly label: string } | null
  /** Fields that serve only to look around, folded under a title. */
  readonly look: { readonly title: string; readonly fields: readonly SourceField[] } | null
  readonly usualIntervalSeconds: number
  /** What a source is called after the name of its first gear. */
  readonly nameEnding: string
  /** What it finds tells no name of itself: it is called as the source is, by its setting `name`. */
  readonly isNameless?: boolean
}

/** A setting by its path, as `look.table`. */
export function settingOf(
  settings: Readonly<Record<string, unknown>>,
  { name, setting }: SourceField,
): string {
  let value: unknown = settings
  for (const step of (setting ?? name).split('.'))
    value = typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[step] : undefined
  return typeof value === 'string' || typeof value === 'number' ? String(value) : ''
}

/** Which kind of credential a source goes in with; `null` when with none. @param valueOf of a field */
export function credentialKind(
  { credential }: Pick<ProtocolDescriptor, 'credential'>,
  valueOf: (field: string) => string,
): CredentialKind | null {
  return credential.by === null ? credential.kind : (credential.kinds[valueOf(credential.by)] ?? null)
}

/** What a source speaks, in words. */
export const spokenWords = (
  { words }: Pick<ProtocolDescriptor, 'words'>,
  settings: Readonly<Record<string, unknown>>,
): string =>
  words
    .replace(/\{(\w+)\}/g, (_, name: string) => {
      const value = settings[name]
      return typeof value === 'string' ? value : ''
    })
    .trim()
