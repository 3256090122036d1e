import '@fontsource-variable/hanken-grotesk';
import { beforeEach } from 'vitest';

// Each test begins where a page begins: no address of the test before, nothing remembered.
beforeEach(() => {
  window.history.replaceState(null, '', window.location.pathname);
  window.dispatchEvent(new PopStateEvent('popstate'));
  localStorage.clear();
});
