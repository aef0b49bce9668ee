export { modbus, registerMap } from './driver.ts'
export { decodeAnswer, encodeQuestion, FrameError, frameLength, ModbusException } from './frame.ts'
export { SHIPPED_MAPS } from './shipped.ts'
export { descriptor as modbusDescriptor, form as modbusForm } from './descriptor.ts'
