export * from './rehearsals.ts'
export * from './ruleForm.ts'
export * from './rules.ts'
export * from './subjects.ts'
