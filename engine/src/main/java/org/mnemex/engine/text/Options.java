package org.mnemex.engine.text;

import com.google.re2j.Pattern;
import com.google.re2j.PatternSyntaxException;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Reads the options of a step; every one that is given must be asked for. */
final class Options {
  /** Words of a list, rules of synonyms, pairs of a table. */
  private static final int MAX_VALUES = 100_000;

  /** Of one word, rule or replacement. */
  private static final int MAX_UNITS = 20_000;

  private final ComponentSpec spec;
  private final Set<String> asked = new HashSet<>();

  Options(ComponentSpec spec) {
    this.spec = spec;
  }

  /**
   * Refuses more than analysis should have to look at.
   *
   * @throws ComponentException if there are too many values, or one is too long
   */
  void checkSize() {
    for (List<String> values : spec.options().values()) {
      if (values.size() > MAX_VALUES) {
        throw problem("has more than %,d values".formatted(MAX_VALUES), null);
      }
      for (String value : values) {
        if (value.length() > MAX_UNITS) {
          throw problem("has a value of more than %,d characters".formatted(MAX_UNITS), null);
        }
      }
    }
    if (spec.options().size() > MAX_VALUES) {
      throw problem("has more than %,d pairs".formatted(MAX_VALUES), null);
    }
  }

  ComponentException problem(String what, @Nullable String suggestion) {
    return new ComponentException(spec.name(), "'" + spec.name() + "': " + what, suggestion);
  }

  /** The texts of an option, or of the main option. */
  List<String> texts(String option) {
    asked.add(option);
    asked.add(ComponentSpec.MAIN);
    List<String> values = spec.options().get(option);
    if (values == null) {
      values = spec.options().get(ComponentSpec.MAIN);
    }
    return values == null ? List.of() : values;
  }

  /** The texts of an option that cannot stand after the name. */
  private List<String> own(String option) {
    asked.add(option);
    return spec.options().getOrDefault(option, List.of());
  }

  String text(String option, @Nullable String otherwise) {
    List<String> values = texts(option);
    if (values.size() == 1) {
      return values.getFirst();
    }
    if (values.isEmpty() && otherwise != null) {
      return otherwise;
    }
    throw problem("needs a %s: {%s: …}".formatted(option, spec.name()), null);
  }

  String ownText(String option, String otherwise) {
    List<String> values = own(option);
    return values.isEmpty() ? otherwise : values.getFirst();
  }

  String word(String option, @Nullable String otherwise, Set<String> known) {
    String value = text(option, otherwise);
    if (!known.contains(value)) {
      throw problem(
          "there is no %s '%s'; there are %s"
              .formatted(option, value, String.join(", ", known.stream().sorted().toList())),
          NearestName.to(value, known));
    }
    return value;
  }

  int number(String option, int otherwise, int least, int most) {
    List<String> values = own(option);
    if (values.isEmpty()) {
      return otherwise;
    }
    try {
      int value = Integer.parseInt(values.getFirst());
      if (value >= least && value <= most) {
        return value;
      }
    } catch (NumberFormatException e) {
      // Said below, with the range.
    }
    throw problem(
        "'%s' is a number from %d to %d, not '%s'"
            .formatted(option, least, most, values.getFirst()),
        null);
  }

  boolean flag(String option) {
    String value = ownText(option, "false").toLowerCase(Locale.ROOT);
    if (!Set.of("true", "false").contains(value)) {
      throw problem("'" + option + "' is true or false, not '" + value + "'", null);
    }
    return value.equals("true");
  }

  Pattern pattern(String option) {
    String expression = text(option, null);
    try {
      return Expressions.compile(expression);
    } catch (PatternSyntaxException e) {
      throw problem("'" + expression + "' is not a regular expression: " + e.getMessage(), null);
    }
  }

  /** Every option as a pair of texts. */
  Map<String, String> table() {
    Map<String, String> table = new LinkedHashMap<>();
    spec.options().forEach((from, to) -> table.put(from, to.isEmpty() ? "" : to.getFirst()));
    asked.addAll(spec.options().keySet());
    if (table.isEmpty() || table.containsKey(ComponentSpec.MAIN)) {
      throw problem("needs pairs: a text and its replacement", null);
    }
    return table;
  }

  /** Refuses options that nobody asked for. */
  void finish() {
    for (String option : spec.options().keySet()) {
      if (!asked.contains(option)) {
        throw problem(
            option.isEmpty()
                ? "takes no value"
                : "has no option '%s'; it has %s"
                    .formatted(
                        option,
                        String.join(
                            ", ", asked.stream().filter(o -> !o.isEmpty()).sorted().toList())),
            NearestName.to(option, asked));
      }
    }
  }
}
