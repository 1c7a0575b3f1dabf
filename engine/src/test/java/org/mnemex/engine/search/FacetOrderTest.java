package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.regex.Pattern;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Folding;

/** A facet shows the values that a count by hand puts first, and what is chosen besides. */
class FacetOrderTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("name", FieldType.EXACT, null, Use.FACET),
              new Field("kind", FieldType.EXACT, Set.of(Use.FACET), true, 1, null, null),
              Field.of("number", FieldType.INTEGER, null, Use.FACET),
              Field.decimal("price", 2, Use.FACET),
              Field.of("day", FieldType.DATE, null, Use.FACET)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  void clean() {
    folders.close();
  }

  @Property(tries = 60)
  void valuesAreThoseThatAreCountedByHand(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    List<Document> documents = new ArrayList<>();
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = random.nextInt(60); i >= 0; i--) {
        Document document = document("k" + i, random);
        documents.add(document);
        edition.put(document);
        if (random.nextInt(20) == 0) {
          edition.refresh(Checkpoint.NONE);
        }
      }
      edition.refresh(Checkpoint.NONE);
      for (int i = 0; i < 40; i++) {
        ValueFacet asked = facet(random);
        Query all = new Query.Everything();
        FacetResult found =
            edition
                .search(
                    new SearchRequest(all, all, null, 0, 0, List.of(asked), Set.of(), List.of()))
                .facets()
                .getFirst();
        assertThat(found).as(asked.toString()).isEqualTo(byHand(asked, documents));
      }
    }
  }

  private static ValueFacet facet(Random random) {
    String field = any(random, SCHEMA.fields().toArray(Field[]::new)).name();
    FacetOrder order = any(random, FacetOrder.values());
    String search = random.nextInt(3) > 0 ? "" : any(random, "a", "A1", "b", "2", "20");
    return new ValueFacet(
        "facet",
        field,
        random.nextBoolean() ? List.of() : values(field, random, 3),
        random.nextInt(7),
        order,
        order == FacetOrder.GIVEN ? values(field, random, 4) : List.of(),
        search,
        false);
  }

  @SafeVarargs
  private static <T> T any(Random random, T... values) {
    return values[random.nextInt(values.length)];
  }

  private static Document document(String key, Random random) {
    Map<String, List<Object>> fields = new HashMap<>();
    for (Field field : SCHEMA.fields()) {
      fields.put(field.name(), values(field.name(), random, 2));
    }
    fields.values().removeIf(List::isEmpty);
    return new Document(key, fields, new byte[] {7}, random.nextLong());
  }

  private static List<Object> values(String field, Random random, int most) {
    return IntStream.range(0, random.nextInt(most + 1))
        .mapToObj(i -> value(field, random))
        .distinct()
        .toList();
  }

  private static Object value(String field, Random random) {
    int number = random.nextInt(12);
    return switch (field) {
      case "number" -> (long) number - 3;
      case "price" -> BigDecimal.valueOf(number * 5L, 2);
      case "day" -> LocalDate.of(2026, 1 + number, 20);
      default -> {
        String text = any(random, "a", "b ", "b a") + number;
        yield random.nextBoolean() ? text : text.toUpperCase(Locale.ROOT);
      }
    };
  }

  private static FacetResult byHand(ValueFacet asked, List<Document> documents) {
    Field field = SCHEMA.field(asked.field());
    Function<Object, Object> term =
        value -> field.fold() ? Folding.foldCase((String) value) : value;
    Map<Object, Long> counts = new LinkedHashMap<>();
    Map<Object, Map<Object, Long>> spellings = new HashMap<>();
    for (Document document : documents) {
      List<Object> values = document.fields().getOrDefault(field.name(), List.of());
      values.stream().map(term).distinct().forEach(one -> counts.merge(one, 1L, Long::sum));
      values.forEach(
          value ->
              spellings
                  .computeIfAbsent(term.apply(value), one -> new TreeMap<>())
                  .merge(value, 1L, Long::sum));
    }
    List<Object> chosen = asked.chosen().stream().map(term).distinct().toList();
    List<FacetResult.Value> all = new ArrayList<>();
    counts.forEach(
        (one, count) -> {
          Object shown = mostFrequent(spellings.get(one));
          if (chosen.contains(one) || hasWord(shown.toString(), asked.search())) {
            all.add(new FacetResult.Value(shown, count, chosen.contains(one)));
          }
        });
    Set<Object> missing = new HashSet<>();
    for (Object value : asked.chosen()) {
      if (!counts.containsKey(term.apply(value)) && missing.add(term.apply(value))) {
        all.add(new FacetResult.Value(value, 0, true));
      }
    }
    all.sort(order(asked, term));
    List<FacetResult.Value> shown = new ArrayList<>();
    for (FacetResult.Value value : all) {
      if (all.indexOf(value) < asked.limit() || value.chosen()) {
        shown.add(value);
      }
    }
    return new FacetResult("facet", shown, shown.size() < all.size());
  }

  private static Object mostFrequent(Map<Object, Long> spellings) {
    long most = spellings.values().stream().mapToLong(count -> count).max().orElseThrow();
    return spellings.entrySet().stream()
        .filter(entry -> entry.getValue() == most)
        .findFirst()
        .orElseThrow()
        .getKey();
  }

  private static boolean hasWord(String value, String beginning) {
    return Pattern.compile("(^|[^\\p{L}\\p{Nd}])" + Pattern.quote(Folding.foldCase(beginning)))
        .matcher(Folding.foldCase(value))
        .find();
  }

  private static Comparator<FacetResult.Value> order(
      ValueFacet asked, Function<Object, Object> term) {
    Comparator<FacetResult.Value> byValue =
        (a, b) ->
            a.value() instanceof String text
                ? Comparator.<String, String>comparing(one -> one.toLowerCase(Locale.ROOT))
                    .thenComparing(Comparator.naturalOrder())
                    .compare(text, (String) b.value())
                : new BigDecimal(number(a.value())).compareTo(new BigDecimal(number(b.value())));
    Comparator<FacetResult.Value> byCount =
        Comparator.comparingLong(FacetResult.Value::count).reversed().thenComparing(byValue);
    List<Object> given = asked.given().stream().map(term).toList();
    return switch (asked.order()) {
      case COUNT -> byCount;
      case VALUE -> byValue;
      case NATURAL ->
          asked.field().equals("name") || asked.field().equals("kind")
              ? Comparator.<FacetResult.Value, String>comparing(
                      value -> padded(value.value().toString()))
                  .thenComparing(byValue)
              : byValue;
      case GIVEN ->
          Comparator.<FacetResult.Value>comparingInt(
                  value -> {
                    int at = given.indexOf(term.apply(value.value()));
                    return at < 0 ? Integer.MAX_VALUE : at;
                  })
              .thenComparing(byCount);
    };
  }

  private static String number(Object value) {
    return value instanceof LocalDate day ? Long.toString(day.toEpochDay()) : value.toString();
  }

  /** Numbers at the same length, so that they compare as texts. */
  private static String padded(String text) {
    return Pattern.compile("\\d+")
        .matcher(text.toLowerCase(Locale.ROOT))
        .replaceAll(digits -> "%020d".formatted(Long.parseLong(digits.group())));
  }
}
