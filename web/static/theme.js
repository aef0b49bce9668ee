// Before the first paint: the theme that was last shown in this browser, which is that of the account, else the one its system prefers.
;(() => {
  const kept = localStorage.getItem('theme')
  const dark = kept === 'dark' || (kept !== 'light' && matchMedia('(prefers-color-scheme: dark)').matches)
  document.documentElement.dataset.theme = dark ? 'dark' : 'light'
})()
