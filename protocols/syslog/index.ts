export { FramingError, SyslogFrames } from './framing.ts'
export { parseSyslog, SYSLOG_SEVERITIES, type SyslogMessage } from './message.ts'
