let context: AudioContext | null = null

const NOTES = [659.25, 880] as const
const NOTE_S = 0.22

/** Two notes. A browser that lets no page sound before somebody has clicked stays silent, and that is no error. */
export function chime(): void {
  context ??= new AudioContext()
  void context.resume().catch(() => undefined)
  const at = context.currentTime
  for (const [index, frequency] of NOTES.entries()) {
    const tone = context.createOscillator()
    const volume = context.createGain()
    tone.frequency.value = frequency
    volume.gain.setValueAtTime(0.12, at + index * NOTE_S)
    volume.gain.exponentialRampToValueAtTime(0.001, at + (index + 1) * NOTE_S)
    tone.connect(volume).connect(context.destination)
    tone.start(at + index * NOTE_S)
    tone.stop(at + (index + 1) * NOTE_S)
  }
}
