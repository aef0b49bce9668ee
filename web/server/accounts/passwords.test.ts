import { expect, test } from 'vitest'
import { isCommonPassword, newPassword } from './passwords.ts'

test.each(['password', 'PASSWORD', 'password123456', 'qwerty', 'aaaaaaaaaaaa'])(
  '%s is tried first',
  (password) => {
    expect(isCommonPassword(password)).toBe(true)
  },
)

test('several words are not, short ones are too short, and the sentence says which', () => {
  expect(newPassword.safeParse('gulls over the pier').success).toBe(true)
  expect(newPassword.safeParse('gulls').error?.issues[0]?.message).toContain('at least 10')
  expect(newPassword.safeParse('password123456').error?.issues[0]?.message).toContain('tried first')
  expect(newPassword.safeParse('x y'.repeat(100)).error?.issues[0]?.message).toContain('at most 200')
})
