export {
  contentDigest,
  isSignedBy,
  signatureOf,
  type SignatureParameters,
  signedHeaders,
} from './signature.ts'
