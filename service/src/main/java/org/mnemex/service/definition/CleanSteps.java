package org.mnemex.service.definition;

import com.google.re2j.Pattern;
import com.google.re2j.PatternSyntaxException;
import java.time.DateTimeException;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Expressions;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.sync.definition.CleanStep;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;

/** Reads clean-up steps. */
final class CleanSteps {
  /** Steps with an option. */
  static final Set<String> NAMES =
      Set.of(
          "split",
          "join",
          "truncate",
          "default",
          "lookup",
          "replace",
          "date",
          "moment",
          "decimal_mark");

  private static final int MAX_CHARACTERS = 1_000_000;

  private CleanSteps() {}

  private static CleanStep read(YamlMap options) {
    String name = options.allKeys().stream().findFirst().orElse("");
    CleanStep step =
        switch (name) {
          case "split" -> split(options, name);
          case "join" -> new CleanStep.JoinValues(options.text(name));
          case "truncate" -> new CleanStep.Truncate(options.integerOr(name, 0, 1, MAX_CHARACTERS));
          case "default" -> new CleanStep.Default(notEmpty(options, name));
          case "lookup" -> lookup(options.map(name));
          case "replace" -> replace(options.map(name));
          case "date" -> new CleanStep.ParseDate(pattern(options, name));
          case "moment" -> moment(options.map(name));
          case "decimal_mark" -> new CleanStep.ParseNumber(mark(options, name));
          default -> throw unknownStep(options, name);
        };
    if (options.allKeys().size() > 1) {
      throw options.problem(
          name,
          "a step is one key with its option; write the next one as an item of its own",
          null);
    }
    return step;
  }

  private static CleanStep split(YamlMap options, String name) {
    String separator = options.text(name);
    if (separator.isEmpty()) {
      throw options.problem(name, "the separator is empty", null);
    }
    return new CleanStep.Split(separator);
  }

  private static String notEmpty(YamlMap options, String name) {
    String text = options.text(name);
    if (text.isEmpty()) {
      throw options.problem(name, "this is empty", null);
    }
    return text;
  }

  private static CleanStep lookup(YamlMap titles) {
    Map<String, String> map = new LinkedHashMap<>();
    titles.allKeys().forEach(code -> map.put(code, titles.text(code)));
    return new CleanStep.Lookup(map);
  }

  private static CleanStep replace(YamlMap replace) {
    String find = notEmpty(replace, "find");
    String with = replace.textOr("with", "");
    replace.finish();
    try {
      Pattern pattern = Expressions.compile(find);
      // Matching now finds a missing group before the first record does.
      Pattern.compile("(?:" + find + ")|").matcher("").replaceAll(String.valueOf(with));
      return new CleanStep.Replace(pattern, String.valueOf(with));
    } catch (PatternSyntaxException e) {
      throw replace.problem("find", "this is not an expression: " + e.getMessage(), null);
    } catch (IndexOutOfBoundsException | IllegalArgumentException e) {
      throw replace.problem(
          "with",
          "'%s' names a group that 'find' does not have: %s".formatted(with, e.getMessage()),
          null);
    }
  }

  private static String pattern(YamlMap options, String name) {
    String pattern = notEmpty(options, name);
    try {
      var _ = DateTimeFormatter.ofPattern(pattern, Locale.ENGLISH);
      return pattern;
    } catch (IllegalArgumentException e) {
      throw options.problem(
          name, "'" + pattern + "' is not a form like dd.MM.yyyy: " + e.getMessage(), null);
    }
  }

  private static CleanStep moment(YamlMap moment) {
    String pattern = pattern(moment, "form");
    String zone = moment.textOr("zone", "UTC");
    moment.finish();
    try {
      return new CleanStep.ParseMoment(pattern, ZoneId.of(String.valueOf(zone)));
    } catch (DateTimeException e) {
      throw moment.problem("zone", "'" + zone + "' is not a time zone", null);
    }
  }

  private static char mark(YamlMap options, String name) {
    String text = options.text(name);
    if (!text.equals(".") && !text.equals(",")) {
      throw options.problem(name, "the mark before the decimals is \".\" or \",\"", null);
    }
    return text.charAt(0);
  }

  /** A step as a field names it: a word, or {@code {name: option}}. */
  static CleanStep of(YamlMap field, Node step) {
    if (step instanceof ScalarNode scalar) {
      @Nullable CleanStep plain =
          switch (scalar.getValue()) {
            case "trim" -> new CleanStep.Trim();
            case "squeeze" -> new CleanStep.Squeeze();
            case "strip_html" -> new CleanStep.StripHtml();
            case "lower" -> new CleanStep.Lower();
            case "upper" -> new CleanStep.Upper();
            default -> null;
          };
      if (plain != null) {
        return plain;
      }
      throw unknownStep(field, scalar.getValue());
    }
    return read(field.mapOf(step, "clean"));
  }

  private static DefinitionException unknownStep(YamlMap field, String name) {
    Set<String> known = new TreeSet<>(NAMES);
    known.addAll(Set.of("trim", "squeeze", "strip_html", "lower", "upper"));
    return field.problem(
        "clean",
        "there is no clean-up step '%s'; there are %s"
            .formatted(name, String.join(", ", new TreeSet<>(known))),
        NearestName.to(name, known));
  }
}
