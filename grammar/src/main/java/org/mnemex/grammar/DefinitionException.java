package org.mnemex.grammar;

import java.util.List;
import java.util.stream.Collectors;

/** Definitions that were refused; nothing was changed. */
public final class DefinitionException extends RuntimeException {
  private static final long serialVersionUID = 1L;
  private final transient List<DefinitionProblem> problems;

  public DefinitionException(List<DefinitionProblem> problems) {
    super(problems.stream().map(DefinitionProblem::toString).collect(Collectors.joining("\n")));
    this.problems = List.copyOf(problems);
  }

  public List<DefinitionProblem> problems() {
    return problems;
  }
}
