/** Something that the person at the screen can mend, as a sentence. */
export class Refused extends Error {
  /** `problems` says which field it is about, by its name, where it is about one. */
  constructor(
    sentence: string,
    readonly problems: Readonly<Record<string, string>> = {},
  ) {
    super(sentence)
  }
}
