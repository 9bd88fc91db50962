/** Last lines of a run, one a project: how many tests passed, failed and were skipped. */
import type { Reporter, TestModule } from 'vitest/node';

export default class ClosingLine implements Reporter {
  onTestRunEnd(modules: readonly TestModule[]): void {
    const counts = new Map<string, { passed: number; failed: number; skipped: number }>();
    for (const module of modules) {
      const count = counts.get(module.project.name) ?? { passed: 0, failed: 0, skipped: 0 };
      counts.set(module.project.name, count);
      for (const test of module.children.allTests()) {
        const { state } = test.result();
        if (state === 'passed' || state === 'failed' || state === 'skipped') count[state]++;
      }
      // A hook that fails takes its tests along without naming one.
      for (const suite of module.children.allSuites()) if (suite.errors().length) count.failed++;
      // A file that does not load has no tests of its own, but is a failure.
      if (module.state() === 'failed' && module.errors().length) count.failed++;
    }
    for (const [name, { passed, failed, skipped }] of counts) {
      process.stdout.write(`${name}: ${passed} passed, ${failed} failed, ${skipped} skipped\n`);
      if (passed + failed === 0) process.exitCode = 1;
    }
  }
}
