package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
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
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** Groups of results against putting all results of the same search into groups. */
class GroupsTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("name", FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH),
              new Field(
                  "family",
                  FieldType.EXACT,
                  Set.of(Use.FILTER, Use.SHOW),
                  true,
                  1,
                  null,
                  null,
                  0,
                  List.of()),
              Field.of("height", FieldType.INTEGER, null, Use.SORT, Use.SHOW)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  @Property(tries = 60)
  void groupsAreThoseOfAllResults(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = 0; i < 100; i++) {
        edition.put(document("k" + i, random));
        if (random.nextInt(30) == 0) {
          edition.refresh(Checkpoint.NONE);
        }
      }
      edition.refresh(Checkpoint.NONE);
      SearchRequest request =
          SearchRequest.of(
                  random.nextBoolean()
                      ? new Query.Everything()
                      : new Query.Word(Map.of("name", 1.0), "fern", false),
                  1000,
                  "family",
                  "height")
              .sortedBy(
                  random.nextBoolean()
                      ? List.of()
                      : List.of(new SearchRequest.Sort("height", random.nextBoolean())));
      String field = random.nextBoolean() ? "family" : "height";
      int best = 1 + random.nextInt(4);
      List<List<SearchResult.Hit>> expected = groups(edition.search(request), field);
      SearchResult all = edition.search(request.groupedBy(group(field, best)));
      assertThat(all.groups()).isEqualTo(expected.size());
      assertThat(shown(all.hits())).isEqualTo(shown(expected, best));
      for (int i = 0; i < expected.size(); i++) {
        assertThat(all.hits().get(i).group().total()).isEqualTo(expected.get(i).size());
      }
      List<List<String>> paged = new ArrayList<>();
      SearchRequest.Cursor after = null;
      do {
        List<SearchResult.Hit> hits =
            edition
                .search(
                    SearchRequest.of(request.query(), 3, "family", "height")
                        .sortedBy(request.sorts())
                        .groupedBy(group(field, best))
                        .after(after))
                .hits();
        paged.addAll(shown(hits));
        after = hits.isEmpty() ? null : hits.getLast().cursor();
      } while (after != null);
      assertThat(paged).isEqualTo(shown(expected, best));
    }
  }

  private static SearchRequest.Group group(String field, int best) {
    return new SearchRequest.Group(field, best);
  }

  private static List<List<SearchResult.Hit>> groups(SearchResult result, String field) {
    Map<String, List<SearchResult.Hit>> groups = new LinkedHashMap<>();
    for (SearchResult.Hit hit : result.hits()) {
      String value =
          hit.fields().getOrDefault(field, List.of()).stream()
              .map(v -> v.toString().toLowerCase(Locale.ROOT))
              .findFirst()
              .orElse("none of " + hit.key());
      groups.computeIfAbsent(value, v -> new ArrayList<>()).add(hit);
    }
    return List.copyOf(groups.values());
  }

  private static List<List<String>> shown(List<List<SearchResult.Hit>> groups, int best) {
    return groups.stream()
        .map(group -> group.stream().limit(best).map(SearchResult.Hit::key).toList())
        .toList();
  }

  private static List<List<String>> shown(List<SearchResult.Hit> hits) {
    List<List<String>> groups = new ArrayList<>();
    for (SearchResult.Hit hit : hits) {
      List<String> keys = new ArrayList<>(List.of(hit.key()));
      hit.group().others().forEach(other -> keys.add(other.key()));
      groups.add(keys);
    }
    return groups;
  }

  private static Document document(String key, Random random) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    fields.put("name", List.of("fern ".repeat(random.nextInt(4)) + "moss"));
    if (random.nextInt(4) > 0) {
      fields.put("family", List.of(List.of("A", "a", "b", "c").get(random.nextInt(4))));
    }
    if (random.nextInt(4) > 0) {
      fields.put("height", List.of((long) random.nextInt(9)));
    }
    return new Document(key, fields, new byte[0], 1);
  }

  @Test
  void whatHasNoValuesIsRefused() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      assertThatThrownBy(
              () ->
                  edition.search(
                      SearchRequest.of(new Query.Everything(), 1).groupedBy(group("name", 1))))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("cannot be grouped by field 'name' (text)");
      assertThatThrownBy(
              () -> SearchRequest.of(new Query.Everything(), 1000).groupedBy(group("family", 100)))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("more than 10000 results together");
    }
  }
}
