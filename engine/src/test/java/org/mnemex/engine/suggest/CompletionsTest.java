package org.mnemex.engine.suggest;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Random;
import net.jqwik.api.Example;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** Completions of the latest records, and by words, against looking at all records. */
class CompletionsTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of(
                  "name",
                  FieldType.TEXT,
                  Components.analysers().get("words"),
                  Use.SEARCH,
                  Use.SUGGEST,
                  Use.SHOW),
              Field.of("planted", FieldType.INTEGER, null, Use.SORT, Use.FILTER)));
  private static final List<String> WORDS =
      List.of("rose", "rosa", "rowan", "fern", "foxglove", "sage");

  private record Plant(String key, String name, @Nullable Long planted) {
    boolean has(String word) {
      return List.of(name.split(" ")).contains(word);
    }
  }

  @Property(tries = 30)
  void theLatestComeFirst(@ForAll long seed) throws Exception {
    Random random = new Random(seed);
    try (TemporaryFolders folders = new TemporaryFolders()) {
      Path folder = folders.create();
      try (EditionFolder edition = EditionFolder.open(folder, SCHEMA)) {
        List<Plant> plants = new ArrayList<>();
        int segments = 1 + random.nextInt(4);
        for (int segment = 0; segment < segments; segment++) {
          // More than are ranked of other completions.
          int count = List.of(20, 700, 3000).get(random.nextInt(3));
          for (int i = 0; i < count; i++) {
            Plant plant = plant(segment + "-" + i, random);
            plants.add(plant);
            edition.put(document(plant));
          }
          edition.refresh(Checkpoint.NONE);
        }
        for (String typed : List.of("r", "ro", "f", "sag")) {
          int since = random.nextInt(40) - 20;
          int size = 1 + random.nextInt(8);
          SuggestRequest request =
              new SuggestRequest(
                  typed,
                  List.of("name"),
                  size,
                  FilterText.parse("planted >= " + since, SCHEMA),
                  List.of(),
                  "planted",
                  SearchLimits.NONE);
          assertThat(edition.view().suggest(request).stream().map(Suggestion::text))
              .as("%s, %d since %d", typed, size, since)
              .containsExactlyElementsOf(expected(plants, typed, since, size));
        }
      }
    }
  }

  /** Asked after each new segment, so that older ones answer from what they keep. */
  @Property(tries = 30)
  void theWordsOfMostRecordsComeFirst(@ForAll long seed) throws Exception {
    Random random = new Random(seed);
    try (TemporaryFolders folders = new TemporaryFolders();
        EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      List<Plant> plants = new ArrayList<>();
      for (int segment = 0; segment < 4; segment++) {
        for (int i = 0; i < 1 + random.nextInt(30); i++) {
          Plant plant = plant(segment + "-" + i, random);
          plants.add(plant);
          edition.put(document(plant));
        }
        edition.refresh(Checkpoint.NONE);
        for (String typed : List.of("r", "ro", "ros", "f", "z", "sage")) {
          int since = random.nextInt(100);
          SuggestRequest request =
              new SuggestRequest(
                  typed,
                  List.of("name"),
                  8,
                  FilterText.parse("planted >= " + since, SCHEMA),
                  List.of(),
                  null,
                  SearchLimits.NONE);
          assertThat(
                  edition.view().words(request).stream()
                      .filter(word -> !word.withErrors())
                      .map(WordCompletions.Completed::text))
              .as("%s since %d", typed, since)
              .containsExactlyElementsOf(words(plants, typed, since));
        }
      }
    }
  }

  @Example
  void whatWasCutShortIsNotKept() throws Exception {
    try (TemporaryFolders folders = new TemporaryFolders();
        EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      // More words than are looked at between two looks at the clock; the most frequent is the
      // last.
      for (int i = 0; i < 3000; i++) {
        edition.put(document(new Plant("p" + i, "r%04d rzz".formatted(i), 1L)));
      }
      edition.refresh(Checkpoint.NONE);
      SearchLimits none = SearchLimits.NONE;
      edition.view().words(typedR(new SearchLimits(0, none.bytes(), none.terms(), true)));
      assertThat(edition.view().words(typedR(none)))
          .first()
          .extracting(WordCompletions.Completed::text)
          .isEqualTo("rzz");
    }
  }

  private static SuggestRequest typedR(SearchLimits limits) {
    return new SuggestRequest(
        "r", List.of("name"), 8, new Query.Everything(), List.of(), null, limits);
  }

  private static List<String> words(List<Plant> plants, String typed, int since) {
    return WORDS.stream()
        .filter(word -> word.startsWith(typed) && !word.equals(typed))
        .filter(
            word ->
                plants.stream()
                    .anyMatch(
                        plant ->
                            plant.has(word) && plant.planted != null && plant.planted >= since))
        .sorted(
            Comparator.comparingLong(
                    (String word) -> plants.stream().filter(plant -> plant.has(word)).count())
                .reversed()
                .thenComparing(Comparator.naturalOrder()))
        .toList();
  }

  private static Plant plant(String key, Random random) {
    String name =
        "%s %s %d"
            .formatted(
                WORDS.get(random.nextInt(WORDS.size())),
                WORDS.get(random.nextInt(WORDS.size())),
                random.nextInt(1000));
    return new Plant(key, name, random.nextInt(20) == 0 ? null : (long) random.nextInt(100));
  }

  private static Document document(Plant plant) {
    Map<String, List<Object>> fields =
        plant.planted == null
            ? Map.of("name", List.of(plant.name))
            : Map.of("name", List.of(plant.name), "planted", List.of(plant.planted));
    return new Document(plant.key, fields, new byte[0], 1);
  }

  private static List<String> expected(List<Plant> plants, String typed, int since, int size) {
    return plants.stream()
        .filter(plant -> plant.planted != null && plant.planted >= since)
        .filter(plant -> List.of(plant.name.split(" ")).stream().anyMatch(w -> w.startsWith(typed)))
        .sorted(Comparator.comparing(Plant::planted).reversed().thenComparing(Plant::key))
        .limit(2L * size)
        .map(Plant::name)
        .distinct()
        .limit(size)
        .toList();
  }
}
