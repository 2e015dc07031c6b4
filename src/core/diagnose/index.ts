// Findings: one file a rule and one list of them (rules/), what rules look at (evidence.ts, finding.ts), the runner (run.ts).
export { Diagnoser, type Diagnosis, type DiagnosisTools, type KnownExchange } from './diagnoser';
export { type Evidence, takeEvidence } from './evidence';
export { type Finding, keyOfFinding, RULE_IDS, type RuleId, type Severity } from './finding';
export { diagnoseAll, FINDINGS_VERSION, type FoundInCapture, findingsOn, subjectOf } from './run';
export { ScriptWords } from './script-words';
