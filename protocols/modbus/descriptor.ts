import { z } from 'zod'
import { type ProtocolDescriptor, REGISTER_TABLES } from '#core/sources'
import { hostAddress, type SourceForm, wholeField } from '../driver/form.ts'
import { registerMap } from './driver.ts'

export const descriptor: ProtocolDescriptor = {
  protocol: 'modbus',
  label: 'Modbus TCP: cooling units, meters, contacts',
  words: 'Modbus TCP',
  isPolled: true,
  isNotifying: false,
  hasTrust: false,
  addressPlaceholder: '192.0.2.40:502',
  credential: { by: null, kind: null },
  fields: [
    {
      name: 'gearName',
      label: 'Name',
      control: 'text',
      value: '',
      placeholder: 'its address',
      setting: 'name',
      column: 'gear',
    },
    {
      name: 'modbusUnit',
      label: 'Unit',
      control: 'number',
      value: '1',
      setting: 'unit',
      column: 'unit',
      tellsApart: true,
    },
  ],
  mapping: { label: 'Register map' },
  look: {
    title: 'Registers to look at, to write a map by',
    fields: [
      {
        name: 'lookTable',
        label: 'Table',
        control: 'choice',
        choices: [['', 'none'], ...REGISTER_TABLES.map((table) => [table, table] as const)],
        value: 'holding',
        mapped: '',
        setting: 'look.table',
        column: null,
      },
      {
        name: 'lookAddress',
        label: 'First register',
        control: 'number',
        value: '0',
        setting: 'look.address',
        column: null,
      },
      {
        name: 'lookCount',
        label: 'Count',
        control: 'number',
        value: '16',
        setting: 'look.count',
        column: null,
      },
    ],
  },
  usualIntervalSeconds: 30,
  nameEnding: '',
}

export const form: SourceForm = {
  address: hostAddress('The address is a host, with :port if it is not 502'),
  settings: z
    .object({
      gearName: z.string().trim().max(64, 'A name has at most 64 characters').default(''),
      modbusUnit: wholeField('The unit', 255).default(1),
      lookTable: z.enum(['', ...REGISTER_TABLES]).default(''),
      lookAddress: wholeField('The first register', 65_535).default(0),
      lookCount: wholeField('The count of registers', 125, 1).default(16),
    })
    .transform(({ gearName, modbusUnit, lookTable, lookAddress, lookCount }) => ({
      name: gearName,
      unit: modbusUnit,
      look: lookTable === '' ? null : { table: lookTable, address: lookAddress, count: lookCount },
    })),
  mapping: registerMap,
}
