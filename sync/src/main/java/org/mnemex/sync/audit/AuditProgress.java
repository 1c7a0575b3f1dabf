package org.mnemex.sync.audit;

/** Is told how far an audit is, by its thread. What it throws ends the audit. */
public interface AuditProgress {
  /** Tells nobody. */
  AuditProgress NONE =
      new AuditProgress() {
        @Override
        public void total(long records) {
          // Nobody is told.
        }

        @Override
        public void compared(long records) {
          // Nobody is told.
        }
      };

  /** About how many records there are to compare. */
  void total(long records);

  /** How many records were compared so far. */
  void compared(long records);
}
