// A thread does not inherit the loader that its process reads TypeScript with: it brings its own.
import { register } from 'tsx/esm/api'

register()
await import('./jobWork.ts')
