import { getRequestURL } from 'h3'

/** The site of a page: asked for beside the page's code, not after it. */
const siteIn = (path: string) => /^\/sites\/([^/]+)/.exec(path)?.[1]

export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('render:html', (html, { event }) => {
    const site = siteIn(getRequestURL(event).pathname)
    // as it stands in the address: what is no part of one was escaped by the browser
    if (site && /^[\w.~%-]+$/.test(site))
      html.head.push(`<link rel="preload" as="fetch" crossorigin="anonymous" href="/api/sites/${site}">`)
  })
})
