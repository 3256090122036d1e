import { type Finding, framesText } from '#core/checks';

/** A finding as the terminal shows it: what, at which frames, why, and what would mend it. */
export function findingText(finding: Finding): string {
  const frames = framesText(finding.frames);
  const mark = finding.severity === 'warning' ? '!' : '-';
  return [
    `${mark} ${finding.title}${frames ? ` (${frames})` : ''}`,
    `    ${finding.text}`,
    ...finding.remedies.map((r) => `    remedy: ${r.title} (${r.edits.map((e) => `${e.path} = ${JSON.stringify(e.value)}`).join(', ')})`),
  ].join('\n');
}
