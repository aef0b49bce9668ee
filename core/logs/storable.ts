/**
 * A text from the wire as it can be stored and shown: control characters, NUL among them, which no text column takes
 * (PostgreSQL, 8.3), become spaces, halves of characters beyond 16 bits the replacement character, and what is too long is cut.
 * Line feeds and tabs stay where they are asked for.
 */
export function storable(text: string, longest: number, keepsLines = false): string {
  const controls = keepsLines ? /[^\P{Cc}\n\t]+/gu : /\p{Cc}+/gu
  const clean = text.replaceAll(controls, ' ').trim()
  if (clean.length <= longest) return clean.toWellFormed()
  return clean.slice(0, longest).toWellFormed()
}
