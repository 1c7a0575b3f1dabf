package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Supplier;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionProblem;

/** Problems of several parts of a definition, so that they can be reported together. */
final class Collected {
  private final List<DefinitionProblem> problems = new ArrayList<>();

  void run(Runnable work) {
    try {
      work.run();
    } catch (DefinitionException e) {
      problems.addAll(e.problems());
    }
  }

  /** The content of a part, or {@code otherwise} if it has problems. */
  <T> T of(T otherwise, Supplier<T> part) {
    try {
      return part.get();
    } catch (DefinitionException e) {
      problems.addAll(e.problems());
      return otherwise;
    }
  }

  /**
   * Ends the collection.
   *
   * @throws DefinitionException with all problems, if there are any
   */
  void throwIfAny() {
    if (!problems.isEmpty()) {
      throw new DefinitionException(problems);
    }
  }
}
