/**
 * A text from the wire as it can be stored and shown: control characters, NUL among them, which no text column takes
 * (PostgreSQL, 8.3), become spaces, halves of characters beyond 16 bits the replacement character, and what is too long is cut.
 * Line feeds and tabs stay where they are asked for.
 */
export function storable(text: string, longest: number, keepsLines = false): string {
  const controls = keepsLines ? /[\u0000-\u0008\u000b-\u001f\u007f]+/g : /[\u0000-\u001f\u007f]+/g
  const clean = text.replaceAll(controls, ' ').trim()
  if (clean.length <= longest) return clean.toWellFormed()
  return clean.slice(0, longest).toWellFormed()
}
