package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;

/** From a file of records to a search, in three commands. */
class StartFromFileTest {
  private static final int RECORDS = 120;

  private static String name(int i) {
    return (i % 3 == 0 ? "Long rake " : i % 3 == 1 ? "Dibber; of ash, " : "Trowel ") + i;
  }

  private static String records(String ending) {
    return switch (ending) {
      case "csv" ->
          // As spreadsheets write it where the comma is a decimal mark.
          "\uFEFFsku;name;shelf;price;email\r\n"
              + IntStream.range(0, RECORDS)
                  .mapToObj(
                      i ->
                          "S%03d;\"%s\";%s;%d.5;keeper%d@quillmere.example\r\n"
                              .formatted(i, name(i), i % 2 == 0 ? "north" : "south", i, i))
                  .collect(Collectors.joining());
      case "json" ->
          IntStream.range(0, RECORDS)
              .mapToObj(StartFromFileTest::json)
              .collect(Collectors.joining(",\n", "[\n", "\n]\n"));
      default ->
          IntStream.range(0, RECORDS)
              .mapToObj(StartFromFileTest::json)
              .collect(Collectors.joining("\n"));
    };
  }

  private static String json(int i) {
    return "{\"sku\": \"S%03d\", \"name\": \"%s\", \"shelf\": \"%s\", \"price\": %d.5, \"email\": \"keeper%d@quillmere.example\"}"
        .formatted(i, name(i), i % 2 == 0 ? "north" : "south", i, i);
  }

  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    service = RunningService.start(folder);
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  @ParameterizedTest
  @ValueSource(strings = {"csv", "json", "ndjson"})
  void aFileIsDraftedAppliedAndImported(String ending) throws Exception {
    String index = "tools-" + ending;
    Path file = folder.resolve(index + "." + ending);
    Files.writeString(file, records(ending), StandardCharsets.UTF_8);
    Path draft = folder.resolve(index + ".yaml");
    assertThat(done("draft", "--file", file.toString(), "--out", draft.toString()).out())
        .contains("mnemex import " + file + " -i " + index);
    assertThat(Files.readString(draft)).contains("key: [sku]", "- email", "ranges:");
    done("apply", draft.toString());
    service.awaitLive(index);
    boolean broken = ending.equals("json");
    if (broken) {
      // One record has no key, another is no object; what was good before them stays.
      Files.writeString(file, records(ending).replace("\n]", ",\n{\"name\": \"No key\"},\n7]"));
    }
    CommandLineTest.Outcome imported = mnemex("import", file.toString(), "-i", index);
    assertThat(imported.out()).contains("120 records taken");
    assertThat(imported.exitCode()).isEqualTo(broken ? 1 : 0);
    if (broken) {
      assertThat(imported.err())
          .contains(
              ":122: its key 'sku' is missing",
              ":123: this is not a JSON object, but of the type number");
    }
    String endpoint = index + "-search";
    RunningService.await(
        () -> service.client.search(endpoint, SearchQuery.words("")).found() == RECORDS);
    SearchAnswer answer =
        service.client.search(endpoint, SearchQuery.words("dibber").choose("shelf", "north"));
    assertThat(answer.found()).isEqualTo(20);
    assertThat(answer.card().title()).isEqualTo("name");
    assertThat(answer.results()).noneMatch(result -> result.fields().containsKey("email"));
    assertThat(service.client.suggest(endpoint, "dib", 3)).isNotEmpty();
  }

  @Test
  void whatIsWrongWithAFileIsListedAtOnce() throws Exception {
    Path file = folder.resolve("bad.csv");
    Files.writeString(file, "id,name\n1,a\n2\n3,c,d\n");
    CommandLineTest.Outcome outcome = mnemex("draft", "--file", file.toString());
    assertThat(outcome.exitCode()).isNotZero();
    assertThat(outcome.err())
        .contains("line 3: it has 1 value, and the first line names 2 columns")
        .contains("line 4: it has 3 values");
    Path latin = folder.resolve("latin.csv");
    Files.writeString(latin, "id,name\n1,Möhre\n", StandardCharsets.ISO_8859_1);
    assertThat(mnemex("draft", "--file", latin.toString()).err())
        .contains("latin.csv is not text in UTF-8; convert it first: iconv -f LATIN1");
  }

  private static CommandLineTest.Outcome done(String... words) throws Exception {
    CommandLineTest.Outcome outcome = mnemex(words);
    assertThat(outcome.exitCode()).as(outcome.err()).isZero();
    return outcome;
  }

  private static CommandLineTest.Outcome mnemex(String... words) throws Exception {
    return CommandLineTest.run(service.url.toString(), folder, List.of(words));
  }
}
