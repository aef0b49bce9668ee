import { buildPrograms } from '../../bin/setup/packages.mjs'

/** Tests that kill processes start them as an installation does: from what was built, of the sources as they are now. */
export default buildPrograms
