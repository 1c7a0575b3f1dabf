package org.mnemex.service.job;

/** What the work of a job tells, and asks. Used by one thread. */
public interface JobProgress {
  /** Tells nobody, for work that somebody waits for. */
  JobProgress NONE =
      new JobProgress() {
        @Override
        public void total(long amount) {
          // Nobody is told.
        }

        @Override
        public void done(long amount) {
          // Nobody is told.
        }

        @Override
        public void say(String line) {
          // Nobody is told.
        }
      };

  /** How much there is to do, in records, queries or bytes; not called if that is not known. */
  void total(long amount);

  /**
   * How much is done so far.
   *
   * @throws JobCancelledException if somebody cancelled the job
   */
  void done(long amount);

  /** Adds a line to the log of the job. */
  void say(String line);
}
