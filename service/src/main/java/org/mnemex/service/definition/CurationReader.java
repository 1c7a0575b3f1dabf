package org.mnemex.service.definition;

import com.google.re2j.PatternSyntaxException;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Expressions;
import org.mnemex.service.definition.CurationDefinition.Message;
import org.mnemex.service.definition.CurationDefinition.Rule;
import org.mnemex.service.definition.CurationDefinition.When;

/** Reads a curation. */
final class CurationReader {
  private static final int MAX_RULES = 1_000;
  private static final int MAX_FIRST = 10;
  private static final int MAX_HIDDEN = 1_000;
  private static final int MAX_TEXT = 500;
  private static final Pattern LINK = Pattern.compile("(https?://|/(?!/))[^\\s\"<>\\\\^`|]*");

  private final YamlMap map;
  private final String name;

  CurationReader(YamlMap map, String name) {
    this.map = map;
    this.name = name;
  }

  CurationDefinition read() {
    List<Rule> rules = new ArrayList<>();
    YamlMap all = map.map("rules");
    all.each(rule -> rules.add(rule(all.map(rule), rule)));
    if (rules.isEmpty() || rules.size() > MAX_RULES) {
      throw map.problem("rules", "a curation has 1 to %,d rules".formatted(MAX_RULES), null);
    }
    return new CurationDefinition(name, map.text("endpoint"), rules);
  }

  private static Rule rule(YamlMap one, String name) {
    LocalDate from = day(one, "from");
    LocalDate to = day(one, "to");
    if (from != null && to != null && to.isBefore(from)) {
      throw one.problem("to", "the last day is before the first one", null);
    }
    Rule rule =
        new Rule(
            name,
            when(one),
            from,
            to,
            keys(one, "first", MAX_FIRST),
            keys(one, "hide", MAX_HIDDEN),
            lift(one),
            replace(one),
            one.texts("add"),
            message(one));
    one.finish();
    boolean does =
        !rule.first().isEmpty()
            || !rule.hide().isEmpty()
            || rule.lift() != null
            || !rule.replace().isEmpty()
            || !rule.add().isEmpty()
            || rule.message() != null;
    if (!does) {
      throw one.problem(
          "when",
          "the rule does nothing: give it first, hide, lift, replace, add or message",
          null);
    }
    return rule;
  }

  private static When when(YamlMap rule) {
    YamlMap when = rule.map("when");
    List<When> conditions = new ArrayList<>();
    if (when.has("words")) {
      conditions.add(new CurationDefinition.Words(words(when, "words")));
    }
    if (when.has("contains")) {
      conditions.add(new CurationDefinition.Contains(words(when, "contains")));
    }
    if (when.has("matches")) {
      try {
        conditions.add(new CurationDefinition.Matches(Expressions.compile(when.text("matches"))));
      } catch (PatternSyntaxException e) {
        throw when.problem("matches", "this expression is wrong: " + e.getDescription(), null);
      }
    }
    when.finish();
    if (conditions.size() != 1) {
      throw rule.problem("when", "say one of words, contains and matches", null);
    }
    return conditions.getFirst();
  }

  private static List<List<String>> words(YamlMap when, String key) {
    List<List<String>> texts = new ArrayList<>();
    for (String text : when.texts(key)) {
      List<String> words = CurationDefinition.words(text);
      if (words.isEmpty()) {
        throw when.problem(key, "'%s' has no word".formatted(text), null);
      }
      texts.add(words);
    }
    return texts;
  }

  private static List<String> keys(YamlMap rule, String key, int most) {
    List<String> keys = rule.texts(key).stream().distinct().toList();
    if (keys.size() > most) {
      throw rule.problem(key, "there are at most %,d records".formatted(most), null);
    }
    return keys;
  }

  private static EndpointDefinition.@Nullable Lift lift(YamlMap rule) {
    YamlMap lift = rule.mapOrNull("lift");
    if (lift == null) {
      return null;
    }
    EndpointDefinition.Lift read =
        new EndpointDefinition.Lift(lift.text("where"), lift.numberOr("by", 2));
    lift.finish();
    return read;
  }

  private static Map<String, String> replace(YamlMap rule) {
    Map<String, String> replace = new LinkedHashMap<>();
    YamlMap all = rule.mapOrNull("replace");
    if (all != null) {
      for (String word : all.allKeys()) {
        List<String> words = CurationDefinition.words(word);
        if (words.size() != 1) {
          throw all.problem(word, "'%s' is not one word".formatted(word), null);
        }
        replace.put(words.getFirst(), all.text(word));
      }
    }
    return replace;
  }

  private static @Nullable Message message(YamlMap rule) {
    YamlMap message = rule.mapOrNull("message");
    if (message == null) {
      return null;
    }
    String text = message.text("text");
    String link = message.textOr("link", null);
    message.finish();
    if (text.isBlank() || text.length() > MAX_TEXT) {
      throw message.problem("text", "a message has 1 to %,d characters".formatted(MAX_TEXT), null);
    }
    if (link != null && (link.length() > MAX_TEXT || !LINK.matcher(link).matches())) {
      throw message.problem(
          "link", "a link begins with https://, http:// or /, without spaces", null);
    }
    return new Message(text, link);
  }

  private static @Nullable LocalDate day(YamlMap rule, String key) {
    String text = rule.textOr(key, null);
    try {
      return text == null ? null : LocalDate.parse(text);
    } catch (DateTimeException e) {
      throw rule.problem(key, "'%s' is not a day such as 2026-03-01".formatted(text), null);
    }
  }
}
