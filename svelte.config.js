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
        // Floating menus and charts place themselves by style attributes; style elements stay forbidden.
        'style-src-attr': ['unsafe-inline'],
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
