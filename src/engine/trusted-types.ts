/** Imported first: strings become addresses of scripts and workers only where they lie on this server. */
interface TrustedTypes {
  createPolicy(name: string, rules: { createScriptURL(url: string): string }): unknown;
}

(globalThis as { trustedTypes?: TrustedTypes }).trustedTypes?.createPolicy('default', {
  createScriptURL(url) {
    if (new URL(url, location.href).origin !== location.origin) throw new TypeError(`No script comes from ${url}.`);
    return url;
  },
});
