package org.mnemex.service.endpoint;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.AbstractMap;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.Card;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;

/** Adapts the card of an endpoint's results to its index, and builds links. */
public final class Cards {
  private static final Pattern PLACEHOLDER = Pattern.compile("\\{([^{}]*)}");
  private static final Pattern ADDRESS = Pattern.compile("(https?://|/(?!/))[^\\s\"<>\\\\^`|]*");

  private static final int MAX_LINK = 2_000;
  private static final String KEY = "key";

  private Cards() {}

  /**
   * The card of an endpoint; without a title it uses the shown text field with the highest weight,
   * or else the first shown exact field.
   *
   * @param weights the searched fields
   * @throws InvalidDefinitionException if it names a field that results do not show
   */
  static Card fit(EndpointDefinition endpoint, Schema schema, Map<String, Double> weights) {
    Card card = endpoint.card();
    for (Map.Entry<String, @Nullable String> part :
        List.of(
            entry("title", card.title()),
            entry("subtitle", card.subtitle()),
            entry("picture", card.picture()))) {
      if (part.getValue() != null) {
        requireShown(endpoint, part.getValue(), part.getKey());
      }
    }
    if (card.link() != null) {
      checkLink(endpoint, card.link());
    }
    return card.title() != null
        ? card
        : new Card(
            guessTitle(endpoint, schema, weights), card.subtitle(), card.picture(), card.link());
  }

  private static Map.Entry<String, @Nullable String> entry(String role, @Nullable String field) {
    return new AbstractMap.SimpleEntry<>(role, field);
  }

  private static void requireShown(EndpointDefinition endpoint, String field, String role) {
    if (!endpoint.show().contains(field)) {
      throw new InvalidDefinitionException(
          List.of("card", role),
          "results do not show field '%s'; add it to 'show'".formatted(field),
          NearestName.to(field, endpoint.show()));
    }
  }

  private static void checkLink(EndpointDefinition endpoint, String link) {
    List<String> path = List.of("card", "link");
    String plain = PLACEHOLDER.matcher(link).replaceAll("x");
    boolean whole = PLACEHOLDER.matcher(link).matches();
    if (link.length() > MAX_LINK || !whole && !ADDRESS.matcher(plain).matches()) {
      throw new InvalidDefinitionException(
          path,
          "a link begins with https://, http:// or /, or is a field with such addresses as {url}; it has at most %,d characters, none of them a space"
              .formatted(MAX_LINK),
          null);
    }
    Matcher placeholders = PLACEHOLDER.matcher(link);
    while (placeholders.find()) {
      if (!placeholders.group(1).equals(KEY)) {
        requireShown(endpoint, placeholders.group(1), "link");
      }
    }
  }

  private static @Nullable String guessTitle(
      EndpointDefinition endpoint, Schema schema, Map<String, Double> weights) {
    List<Field> shown = endpoint.show().stream().filter(schema::has).map(schema::field).toList();
    return shown.stream()
        .filter(field -> field.type() == FieldType.TEXT)
        .max(Comparator.comparingDouble(field -> weights.getOrDefault(field.name(), 0.0)))
        .or(() -> shown.stream().filter(field -> field.type() == FieldType.EXACT).findFirst())
        .map(Field::name)
        .orElse(null);
  }

  /** The fields that a card's link is made of. */
  public static List<String> linkFields(Card card) {
    return card.link() == null
        ? List.of()
        : PLACEHOLDER
            .matcher(card.link())
            .results()
            .map(placeholder -> placeholder.group(1))
            .filter(field -> !field.equals(KEY))
            .toList();
  }

  /**
   * Where a result leads.
   *
   * @param value the text of a shown field, null if the record has none
   * @return null if something that the link needs is missing
   */
  public static @Nullable String link(
      Card card, String key, Function<String, @Nullable String> value) {
    if (card.link() == null) {
      return null;
    }
    Matcher whole = PLACEHOLDER.matcher(card.link());
    if (whole.matches() && !whole.group(1).equals(KEY)) {
      String address = value.apply(whole.group(1));
      return address != null && ADDRESS.matcher(address).matches() ? address : null;
    }
    StringBuilder out = new StringBuilder();
    Matcher placeholders = PLACEHOLDER.matcher(card.link());
    while (placeholders.find()) {
      String field = placeholders.group(1);
      String text = field.equals(KEY) ? key : value.apply(field);
      if (text == null) {
        return null;
      }
      placeholders.appendReplacement(
          out,
          Matcher.quoteReplacement(
              URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20")));
    }
    return placeholders.appendTail(out).toString();
  }
}
