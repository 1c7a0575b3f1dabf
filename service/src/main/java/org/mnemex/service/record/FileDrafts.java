package org.mnemex.service.record;

import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.sync.draft.FileDraft;
import org.springframework.stereotype.Component;

/** Proposes definitions for the records of a file. */
@Component
public class FileDrafts {
  /**
   * Definitions of a push source, an index and an endpoint.
   *
   * @param name what the records are
   * @param sample the first records of the file
   * @param csv whether it is a table; otherwise it is lines of JSON
   * @return YAML that can be applied
   * @throws ProblemException with all lines that cannot be read, or why nothing can be proposed
   */
  public String draft(String name, String sample, boolean csv) {
    try {
      return FileDraft.of(name, SampleRecords.read(sample, csv));
    } catch (IllegalArgumentException e) {
      throw new ProblemException(ProblemType.BAD_RECORDS, String.valueOf(e.getMessage()));
    }
  }
}
