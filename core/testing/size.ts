/** Whether tests run at their full size: `bin/test --long`. */
export const IS_LONG = process.env['RACK_TEST_LONG'] === 'yes'

/** How many, how often or how long: enough to fail when the fault is there, or the full size. */
export const sized = (usual: number, long: number): number => (IS_LONG ? long : usual)
