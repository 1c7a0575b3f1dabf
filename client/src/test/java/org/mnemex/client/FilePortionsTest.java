package org.mnemex.client;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

class FilePortionsTest {
  private static final int RECORDS = 4_500;

  @TempDir private Path folder;

  private List<FilePortions.Portion> portions(String name, String text) throws Exception {
    Path file = Files.writeString(folder.resolve(name), text);
    List<FilePortions.Portion> all = new ArrayList<>();
    try (FilePortions portions = FilePortions.open(file, JsonMapper.shared())) {
      for (var portion = portions.next(); portion != null; portion = portions.next()) {
        all.add(portion);
      }
    }
    return all;
  }

  @Test
  void theFirstLineOfATableIsRepeated() throws Exception {
    String rows =
        IntStream.range(0, RECORDS)
            .mapToObj(
                i -> i % 3 == 0 ? i + ",\"two\r\nlines, \"\"quoted\"\"\"\r\n" : i + ",one\r\n")
            .collect(Collectors.joining());
    String header = "id,name\r\n";
    List<FilePortions.Portion> all = portions("a.CSV", header + rows);
    assertThat(all).hasSize(3).allMatch(portion -> portion.text().startsWith(header));
    assertThat(all.stream().map(one -> one.text().substring(header.length())))
        .satisfies(parts -> assertThat(String.join("", parts)).isEqualTo(rows));
    List<String> lines = (header + rows).lines().toList();
    for (FilePortions.Portion portion : all) {
      List<String> its = portion.text().lines().toList();
      for (int at = 2; at <= its.size(); at++) {
        assertThat(lines.get((int) portion.lineOf().applyAsLong(at) - 1))
            .isEqualTo(its.get(at - 1));
      }
    }
  }

  @Test
  void linesAndListsAreTakenApart() throws Exception {
    String lines =
        IntStream.range(0, RECORDS)
            .mapToObj("{\"id\": %d}"::formatted)
            .collect(Collectors.joining("\n"));
    List<FilePortions.Portion> all = portions("a.ndjson", lines);
    assertThat(all.stream().map(FilePortions.Portion::text).collect(Collectors.joining()))
        .isEqualTo(lines);
    assertThat(all.get(1).lineOf().applyAsLong(1)).isEqualTo(2001);
    List<FilePortions.Portion> listed =
        portions("a.json", "[" + lines.replace("\n", ",\n\n") + "]");
    assertThat(listed.stream().map(FilePortions.Portion::text).collect(Collectors.joining()))
        .isEqualTo(lines.replace(" ", "") + "\n");
    assertThat(listed.get(1).lineOf().applyAsLong(1)).isEqualTo(4001);
    assertThat(portions("empty.csv", "id\n")).isEmpty();
    assertThatThrownBy(() -> portions("b.json", "{}"))
        .hasMessageContaining("not a list of records");
  }

  @Test
  void whatIsGoodBeforeAMistakeComesFirst() throws Exception {
    Path list = Files.writeString(folder.resolve("c.json"), "[{\"id\": 1}, {\"id\": 2}, {\"id\"]");
    try (FilePortions portions = FilePortions.open(list, JsonMapper.shared())) {
      FilePortions.Portion first = portions.next();
      assertThat(first == null ? "" : first.text()).isEqualTo("{\"id\":1}\n{\"id\":2}\n");
      assertThatThrownBy(portions::next).isInstanceOf(JacksonException.class);
    }
    Path latin =
        Files.write(
            folder.resolve("d.csv"), "id,name\n1,rosé\n".getBytes(StandardCharsets.ISO_8859_1));
    assertThatThrownBy(() -> FilePortions.open(latin, JsonMapper.shared()))
        .isInstanceOf(CharacterCodingException.class);
  }
}
