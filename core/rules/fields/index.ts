export { fieldsOfRule } from './fromRule.ts'
export type { RuleFields } from './reader.ts'
export { type Filled, RULE_KINDS, ruleFromFields } from './toRule.ts'
export { fieldsOfWhere, whereFromFields, type WhereFields } from './where.ts'
