import adapter from '@sveltejs/adapter-node'
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte'

/** @type {import('@sveltejs/kit').Config} */
export default {
  preprocess: vitePreprocess(),
  kit: {
    adapter: adapter({ out: 'build' }),
    files: {
      routes: 'web/routes',
      lib: 'web',
      appTemplate: 'web/app.html',
      errorTemplate: 'web/error.html',
      assets: 'web/static',
      hooks: { server: 'web/hooks.server' },
    },
    csp: {
      mode: 'nonce',
      directives: {
        'default-src': ['none'],
        'script-src': ['self'],
        'style-src': ['self'],
        // No element may bring a style of its own, but that which hides the announcer of pages (SvelteKit's own), and the
        // caret of a part of a date (caret-color: transparent).
        'style-src-attr': [
          'unsafe-hashes',
          'sha256-S8qMpvofolR8Mpjy4kQvEm7m1q8clzU4dfDH0AmvZjo=',
          'sha256-dw8m3J0bqISo5p01IgHla3JZ/SRxlkU9bxbwYOKxTTI=',
        ],
        'img-src': ['self', 'data:'],
        'font-src': ['self'],
        'connect-src': ['self'],
        'form-action': ['self'],
        'frame-ancestors': ['none'],
        'base-uri': ['none'],
      },
    },
  },
}
