package org.mnemex.service.search;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

/** Reads the parameters of a query string. */
final class Parameters {
  private final Map<String, List<String>> values;

  private Parameters(Map<String, List<String>> values) {
    this.values = values;
  }

  /**
   * Parameters of a call.
   *
   * @param known what the call reads
   * @param others what else it has, for the message
   * @param call what is called, for the message
   * @throws ProblemException if there is any other
   */
  static Parameters known(
      Map<String, List<String>> values, Set<String> known, Set<String> others, String call) {
    for (String name : values.keySet()) {
      if (!known.contains(name)) {
        Set<String> all = new TreeSet<>(others);
        all.addAll(known);
        throw new ProblemException(
            ProblemType.UNKNOWN_PARAMETER,
            "%s has no parameter '%s'; it has %s".formatted(call, name, String.join(", ", all)),
            NearestName.to(name, all));
      }
    }
    return new Parameters(values);
  }

  /** A text, or null if the parameter is missing. */
  @Nullable String text(String name) {
    List<String> given = values.get(name);
    if (given == null) {
      return null;
    }
    if (given.size() != 1) {
      throw new ProblemException(
          ProblemType.REPEATED_PARAMETER, "parameter '" + name + "' appears more than once");
    }
    return given.getFirst();
  }

  /** All values of a parameter, null if it is missing; a single empty value stands for none. */
  @Nullable List<String> texts(String name) {
    List<String> given = values.get(name);
    return given != null && given.equals(List.of("")) ? List.of() : given;
  }

  /** A whole number, or null if the parameter is missing. */
  @Nullable Integer number(String name) {
    String text = text(name);
    try {
      return text == null ? null : Integer.valueOf(text);
    } catch (NumberFormatException e) {
      throw new ProblemException(
          ProblemType.BAD_VALUE, "'" + text + "' is not a number for '" + name + "'");
    }
  }

  /** True or false, or null if the parameter is missing. */
  @Nullable Boolean bool(String name) {
    String text = text(name);
    return switch (text) {
      case null -> null;
      case "true" -> true;
      case "false" -> false;
      default ->
          throw new ProblemException(
              ProblemType.BAD_VALUE, "'" + text + "' is neither true nor false for '" + name + "'");
    };
  }
}
