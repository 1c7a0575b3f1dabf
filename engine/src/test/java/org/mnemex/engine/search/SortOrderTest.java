package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.ibm.icu.text.Collator;
import com.ibm.icu.util.ULocale;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;

/** Orders by several fields against comparing every document with every other. */
class SortOrderTest {
  private static final List<String> NAMES =
      List.of(
          "Öland", "Zell", "Ängelholm", "Angel", "ängel", "Ñandú", "Nube", "Oland", "Åre", "are");

  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("name", FieldType.EXACT, null, Use.SORT, Use.FILTER),
              new Field(
                  "kind", FieldType.EXACT, Set.of(Use.SORT), true, 1, null, null, 0, List.of()),
              Field.of("height", FieldType.INTEGER, null, Use.SORT),
              Field.of("found", FieldType.DATE, null, Use.SORT),
              Field.of("place", FieldType.PLACE, null, Use.SORT)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  @Property(tries = 40)
  void everyOrderIsThatOfComparing(@ForAll long seed) throws Exception {
    Random random = new Random(seed);
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      List<Document> truth = new ArrayList<>();
      for (int i = 0; i < 120; i++) {
        Document document = document("k" + i, random);
        truth.add(document);
        edition.put(document);
        if (random.nextInt(40) == 0) {
          edition.refresh(Checkpoint.NONE);
        }
      }
      edition.refresh(Checkpoint.NONE);
      for (int i = 0; i < 10; i++) {
        List<SearchRequest.Sort> sorts = sorts(random);
        List<String> expected =
            truth.stream().sorted(comparator(sorts)).map(Document::key).toList();
        assertThat(paged(edition, sorts, 120)).as(sorts.toString()).isEqualTo(expected);
        assertThat(paged(edition, sorts, 13)).as(sorts.toString()).isEqualTo(expected);
      }
    }
  }

  private static Document document(String key, Random random) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    fields.put("name", some(random, () -> NAMES.get(random.nextInt(NAMES.size()))));
    fields.put("kind", some(random, () -> random.nextBoolean() ? "Tree" : "tree"));
    fields.put("height", some(random, () -> (long) random.nextInt(4) - 1));
    fields.put("found", some(random, () -> LocalDate.of(2026, 1, 1 + random.nextInt(3))));
    if (random.nextInt(4) > 0) {
      fields.put("place", List.of(new Place(random.nextInt(3), random.nextInt(3))));
    }
    return new Document(key, fields, new byte[0], 1);
  }

  private static List<Object> some(Random random, Supplier<Object> value) {
    return Stream.generate(value).limit(random.nextInt(3)).distinct().toList();
  }

  private static List<SearchRequest.Sort> sorts(Random random) {
    List<SearchRequest.Sort> sorts = new ArrayList<>();
    for (int n = 1 + random.nextInt(4); n > 0; n--) {
      String field = List.of("name", "kind", "height", "found", "place").get(random.nextInt(5));
      boolean text = field.equals("name") || field.equals("kind");
      sorts.add(
          new SearchRequest.Sort(
              field,
              random.nextBoolean(),
              field.equals("place") ? new Place(random.nextInt(3), 0) : null,
              random.nextBoolean(),
              text ? List.of("sv", "de", "es", "").get(random.nextInt(4)) : null));
    }
    return sorts.stream()
        .map(
            sort ->
                "".equals(sort.language())
                    ? new SearchRequest.Sort(
                        sort.field(), sort.descending(), null, sort.missingFirst(), null)
                    : sort)
        .toList();
  }

  private static List<String> paged(
      EditionFolder edition, List<SearchRequest.Sort> sorts, int size) {
    List<String> keys = new ArrayList<>();
    SearchRequest.Cursor after = null;
    do {
      List<SearchResult.Hit> hits =
          edition
              .search(
                  new SearchRequest(
                          new Query.Everything(),
                          new Query.Everything(),
                          null,
                          0,
                          size,
                          List.of(),
                          Set.of(),
                          List.of())
                      .sortedBy(sorts)
                      .after(after))
              .hits();
      hits.forEach(hit -> keys.add(hit.key()));
      after = hits.isEmpty() ? null : hits.getLast().cursor();
    } while (after != null);
    return keys;
  }

  private static Comparator<Document> comparator(List<SearchRequest.Sort> sorts) {
    Comparator<Document> all = Comparator.comparingInt(document -> 0);
    for (SearchRequest.Sort sort : sorts) {
      Comparator<Object> up = ascending(sort);
      Comparator<Object> order = sort.descending() ? up.reversed() : up;
      all =
          all.thenComparing(
              document ->
                  document.fields().getOrDefault(sort.field(), List.of()).stream()
                      .min(order)
                      .orElse(null),
              sort.missingFirst() ? Comparator.nullsFirst(order) : Comparator.nullsLast(order));
    }
    return all.thenComparing(Document::key);
  }

  private static Comparator<Object> ascending(SearchRequest.Sort sort) {
    return switch (sort.field()) {
      case "place" ->
          Comparator.comparingDouble(
              value ->
                  sort.from().metresTo(((Place) value).latitude(), ((Place) value).longitude()));
      case "height" -> Comparator.comparing(value -> (Long) value);
      case "found" -> Comparator.comparing(value -> (LocalDate) value);
      default -> {
        Comparator<Object> plain = Comparator.comparing(value -> shown(sort, value));
        yield sort.language() == null
            ? plain
            : (a, b) ->
                Collator.getInstance(ULocale.forLanguageTag(sort.language()))
                    .compare(shown(sort, a), shown(sort, b));
      }
    };
  }

  private static String shown(SearchRequest.Sort sort, Object value) {
    return sort.field().equals("kind") ? ((String) value).toLowerCase(Locale.ROOT) : (String) value;
  }

  @Test
  void whatCannotBeSortedSoIsRefused(@TempDir Path folder) throws Exception {
    try (EditionFolder edition = EditionFolder.open(folder, SCHEMA)) {
      refused(edition, new SearchRequest.Sort("name", false, null, false, "tlh"), "language 'tlh'");
      refused(edition, new SearchRequest.Sort("height", false, null, false, "sv"), "only names");
      refused(edition, new SearchRequest.Sort("place", false), "needs a place");
      assertThatThrownBy(
              () ->
                  SearchRequest.of(new Query.Everything(), 1)
                      .sortedBy(Collections.nCopies(9, new SearchRequest.Sort("height", false))))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("at most 8");
    }
  }

  private static void refused(EditionFolder edition, SearchRequest.Sort sort, String why) {
    assertThatThrownBy(
            () ->
                edition.search(SearchRequest.of(new Query.Everything(), 1).sortedBy(List.of(sort))))
        .isInstanceOf(QueryRefusedException.class)
        .hasMessageContaining(why);
  }
}
