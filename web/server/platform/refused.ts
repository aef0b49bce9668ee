/** Something that the person at the screen can mend, as a sentence. */
export class Refused extends Error {}
