package org.mnemex.engine.suggest;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** Completions of the latest records, against sorting all of them. */
class LatestFirstTest {
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

  private record Plant(String key, String name, @Nullable Long planted) {}

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
