import { gunzipSync } from 'node:zlib'
import protobuf from 'protobufjs'
import { z } from 'zod'

/** The part of the open OTLP metrics specification (opentelemetry-proto, metrics/v1) that is read, of all types of points. */
const PROTO = `
syntax = "proto3";
message ExportMetricsServiceRequest { repeated ResourceMetrics resource_metrics = 1; }
message ExportMetricsServiceResponse { ExportMetricsPartialSuccess partial_success = 1; }
message ExportMetricsPartialSuccess { int64 rejected_data_points = 1; string error_message = 2; }
message Status { int32 code = 1; string message = 2; }
message ResourceMetrics { Resource resource = 1; repeated ScopeMetrics scope_metrics = 2; }
message Resource { repeated KeyValue attributes = 1; }
message ScopeMetrics { repeated Metric metrics = 2; }
message Metric {
  string name = 1; string unit = 3;
  oneof data { Gauge gauge = 5; Sum sum = 7; Histogram histogram = 9; ExponentialHistogram exponential_histogram = 10; Summary summary = 11; }
}
message Histogram { repeated HistogramDataPoint data_points = 1; int32 aggregation_temporality = 2; }
message HistogramDataPoint {
  fixed64 start_time_unix_nano = 2; fixed64 time_unix_nano = 3; fixed64 count = 4; optional double sum = 5; repeated KeyValue attributes = 9;
}
message ExponentialHistogram { repeated ExponentialHistogramDataPoint data_points = 1; int32 aggregation_temporality = 2; }
message ExponentialHistogramDataPoint {
  repeated KeyValue attributes = 1; fixed64 start_time_unix_nano = 2; fixed64 time_unix_nano = 3; fixed64 count = 4; optional double sum = 5;
}
message Summary { repeated SummaryDataPoint data_points = 1; }
message SummaryDataPoint {
  fixed64 start_time_unix_nano = 2; fixed64 time_unix_nano = 3; fixed64 count = 4; double sum = 5; repeated KeyValue attributes = 7;
}
message Gauge { repeated NumberDataPoint data_points = 1; }
message Sum { repeated NumberDataPoint data_points = 1; int32 aggregation_temporality = 2; bool is_monotonic = 3; }
message NumberDataPoint {
  fixed64 start_time_unix_nano = 2;
  fixed64 time_unix_nano = 3;
  oneof value { double as_double = 4; sfixed64 as_int = 6; }
  repeated KeyValue attributes = 7;
}
message KeyValue { string key = 1; AnyValue value = 2; }
message AnyValue { oneof value { string string_value = 1; bool bool_value = 2; int64 int_value = 3; double double_value = 4; } }
`
const types = protobuf.parse(PROTO).root
const requestType = types.lookupType('ExportMetricsServiceRequest')
const responseType = types.lookupType('ExportMetricsServiceResponse')
const statusType = types.lookupType('Status')

// One shape for both encodings. 64-bit integers come as strings, as the JSON mapping of the specification has them.
const anyValue = z.object({
  stringValue: z.string().optional(),
  boolValue: z.boolean().optional(),
  intValue: z.union([z.string(), z.number()]).optional(),
  doubleValue: z.number().optional(),
})
const keyValues = z.array(z.object({ key: z.string(), value: anyValue.optional() })).default([])
const nanoseconds = z.union([z.string().regex(/^\d{1,20}$/), z.int().nonnegative()])
const dataPoint = z.object({
  startTimeUnixNano: nanoseconds.optional(),
  timeUnixNano: nanoseconds.default('0'),
  asDouble: z.number().optional(),
  asInt: z.union([z.string(), z.number()]).optional(),
  attributes: keyValues,
})
const points = z.object({ dataPoints: z.array(dataPoint).default([]) })
/** `aggregationTemporality` 1: since the point before; 2: since the start. */
const sums = points.extend({ aggregationTemporality: z.number().optional() })
/** Of distributions how many were observed and what they come to: their mean is what is read. */
const distribution = z.object({
  dataPoints: z
    .array(
      z.object({
        startTimeUnixNano: nanoseconds.optional(),
        timeUnixNano: nanoseconds.default('0'),
        count: nanoseconds.default('0'),
        sum: z.number().optional(),
        attributes: keyValues,
      }),
    )
    .default([]),
  aggregationTemporality: z.number().optional(),
})
const exportRequest = z.object({
  resourceMetrics: z
    .array(
      z.object({
        resource: z.object({ attributes: keyValues }).default({ attributes: [] }),
        scopeMetrics: z
          .array(
            z.object({
              metrics: z
                .array(
                  z.object({
                    name: z.string(),
                    unit: z.string().default(''),
                    gauge: points.optional(),
                    sum: sums.optional(),
                    histogram: distribution.optional(),
                    exponentialHistogram: distribution.optional(),
                    summary: distribution.optional(),
                  }),
                )
                .default([]),
            }),
          )
          .default([]),
      }),
    )
    .default([]),
})
export type ExportRequest = z.output<typeof exportRequest>

export type ExportFormat = 'protobuf' | 'json'

/** What a sender sent cannot be read; the message says why. */
export class PayloadError extends Error {}

/**
 * One OTLP/HTTP export request (OTLP 1.x §OTLP/HTTP), binary protobuf or JSON, plain or gzip.
 * @param limitBytes for the payload after decompression; a small bomb must not unpack into memory
 * @throws PayloadError
 */
export function decodeExport(
  body: Uint8Array,
  format: ExportFormat,
  gzip: boolean,
  limitBytes: number,
): ExportRequest {
  const plain = gzip ? unzip(body, limitBytes) : body
  const parsed = exportRequest.safeParse(format === 'json' ? fromJson(plain) : fromProtobuf(plain))
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]
  throw new PayloadError(`not an OTLP metrics request at ${issue?.path.join('.')}: ${issue?.message}`)
}

function unzip(body: Uint8Array, limitBytes: number): Uint8Array {
  try {
    return gunzipSync(body, { maxOutputLength: limitBytes })
  } catch {
    throw new PayloadError(`the body is not gzip, or unpacks to more than ${limitBytes} bytes`)
  }
}

function fromJson(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(Buffer.from(bytes).toString('utf8'))
  } catch {
    throw new PayloadError('the body is not JSON')
  }
}

function fromProtobuf(bytes: Uint8Array): unknown {
  try {
    return requestType.toObject(requestType.decode(bytes), { longs: String })
  } catch {
    throw new PayloadError('the body is not an OTLP protobuf message')
  }
}

/** What is answered to a push that was taken; with a warning where there is something to do (OTLP 1.x, “Partial Success”). */
export interface ExportAnswer {
  readonly partialSuccess?: { readonly rejectedDataPoints: string; readonly errorMessage: string }
}

const JSON_TYPE = 'application/json'
const PROTOBUF_TYPE = 'application/x-protobuf'

/** The format of a push by its content type; `null` when it is neither. */
export function formatOf(contentType: string | undefined): ExportFormat | null {
  const type = (contentType ?? '').split(';')[0]!.trim().toLowerCase()
  return type === JSON_TYPE ? 'json' : type === PROTOBUF_TYPE ? 'protobuf' : null
}

/** An answer has the format of its request (OTLP 1.x §OTLP/HTTP Response). @param given a refusal is a `Status` with words */
export function encodeAnswer(
  format: ExportFormat,
  given: ExportAnswer | { readonly message: string },
): { readonly type: string; readonly body: Uint8Array } {
  if (format === 'json') return { type: JSON_TYPE, body: Buffer.from(JSON.stringify(given)) }
  const type = 'message' in given ? statusType : responseType
  return { type: PROTOBUF_TYPE, body: type.encode(type.fromObject(given)).finish() }
}

/** The same read, as a sender reads it. */
export function decodeAnswer(format: ExportFormat, isRefusal: boolean, body: Uint8Array): unknown {
  if (format === 'json') return JSON.parse(Buffer.from(body).toString('utf8'))
  const type = isRefusal ? statusType : responseType
  return type.toObject(type.decode(body), { longs: String })
}

/** A request in its binary form, as a sender makes it. */
export function encodeExport(request: ExportRequest): Uint8Array {
  return requestType.encode(requestType.fromObject(request)).finish()
}
