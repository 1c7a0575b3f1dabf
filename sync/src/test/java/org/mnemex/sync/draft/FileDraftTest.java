package org.mnemex.sync.draft;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigInteger;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class FileDraftTest {
  private static List<Map<String, Object>> tools() {
    List<Map<String, Object>> tools = new ArrayList<>();
    for (int i = 0; i < 60; i++) {
      Map<String, Object> tool = new LinkedHashMap<>();
      tool.put("name", "Rake number " + i);
      tool.put("tool_no", "T-%03d".formatted(i));
      tool.put("shelf", i % 4 == 0 ? "north" : "south");
      tool.put("code", "%04d".formatted(7 * i));
      tool.put("price", 5 + i * i * 0.5);
      tool.put("stock", i);
      tool.put("serial", new BigInteger("18446744073709551000").add(BigInteger.valueOf(i)));
      tool.put("tag", new UUID(0xde12_4567_0000_4000L, i).toString());
      tool.put("size", i + ".5e+" + i % 3);
      tool.put("lent", i % 2 == 0);
      tool.put("owner", "garden");
      tool.put("bought", "2024-03-%02d".formatted(1 + i % 28));
      tool.put("seen", i == 7 ? "last spring" : LocalDate.of(2025, 1, 1).plusDays(i).toString());
      tool.put("about", "The rake is light and it has a long handle of ash for the borders");
      tool.put("tags", List.of("garden", i % 3 == 0 ? "steel" : "wood"));
      tool.put(
          "maker", Map.of("name", "Smith " + i % 3, "email", "smith" + i + "@quillmere.example"));
      tool.put("repairs", List.of(Map.of("day", "2025-01-01")));
      tool.put("picture", "https://plants.quillmere.example/t%d.jpg".formatted(i));
      tool.put("page", "https://plants.quillmere.example/tools/" + i);
      tools.add(tool);
    }
    return tools;
  }

  @Test
  void everyColumnBecomesWhatItsValuesTell() {
    String draft = FileDraft.of("Tool Shed", tools());
    assertThat(draft.lines().map(line -> line.replaceAll(" +# .*", "").strip()))
        .contains(
            "source: tool-shed-records",
            "kind: push",
            "index: tool-shed",
            "record: {key: [tool_no]}",
            "- maker.email",
            "name: {from: name, type: text, analyser: words, weight: 3, uses: [search, show, suggest]}",
            "shelf: {from: shelf, type: exact, uses: [facet, filter, show]}",
            "price: {from: price, type: decimal, scale: 2, uses: [facet, filter, show, sort]}",
            "serial: {from: serial, type: exact, uses: [filter, show]}",
            "tag: {from: tag, type: exact, uses: [filter, show]}",
            "size: {from: size, type: decimal, scale: 2, uses: [facet, filter, show, sort]}",
            "lent: {from: lent, type: boolean, uses: [facet, filter, show]}",
            "bought: {from: bought, type: date, uses: [filter, show, sort]}",
            "about: {from: about, type: text, analyser: english, uses: [search, show]}",
            "tags: {from: tags, type: exact, uses: [facet, filter, show]}",
            "maker_name: {from: maker.name, type: exact, uses: [facet, filter, show]}",
            "price: {field: price, ranges: [\"..100\", \"100..450\", \"450..1000\", \"1000..\"], labels: {\"..100\": under 100, \"100..450\": 100 to 450, \"450..1000\": 450 to 1000, \"1000..\": 1000 and more}}");
    assertThat(draft)
        // One value is no choice.
        .contains("owner: {from: owner, type: text")
        .contains("# texts, as 1 of 60 values is no day: 'last spring'")
        .contains("# left out: repairs: lists of objects")
        .contains("- maker.email  # its name")
        .contains("completions: {values: {}, words: {most: 3}}")
        .contains("code: {from: code, type: text")
        .contains("  stock: {field: stock, ranges:");
  }

  @Test
  void numbersAndDaysAreReadAsTheyAreWrittenElsewhere() {
    List<Map<String, Object>> rows = new ArrayList<>();
    for (int i = 1; i <= 20; i++) {
      Map<String, Object> row = new LinkedHashMap<>();
      row.put("Nr", "P-" + i);
      row.put("Größe", (i % 2 == 0 ? "1." : "") + "%03d,5".formatted(i + 100));
      row.put("Preis", i + ",50");
      row.put("Wert", "%d,2%02d.5".formatted(i, i));
      row.put("either", i + ",299");
      row.put("gesät am", i + ".3.2024");
      row.put("seen", "3/%d/2024".formatted(i));
      row.put("unclear", "%d/%d/2024".formatted(1 + i % 9, 1 + i % 7));
      row.put("network", "10.1.%d.0/24".formatted(i));
      row.put("call", "+44 20 7946 00%02d".formatted(i));
      row.put("beds", i % 3 == 0 ? "1,2,3" : "4,5");
      row.put("имя", "Мята " + i);
      rows.add(row);
    }
    assertThat(FileDraft.of("Größen", rows))
        .contains(
            "index: grossen\n",
            "grosse: {from: \"Größe\", type: decimal, scale: 2, clean: [{decimal_mark: \",\"}], uses: [facet,",
            "preis: {from: Preis, type: decimal, scale: 2, clean: [{decimal_mark: \",\"}],",
            "wert: {from: Wert, type: decimal, scale: 2, clean: [{decimal_mark: \".\"}],",
            "either: {from: either, type: text,",
            "gesat_am: {from: \"gesät am\", type: date, clean: [{date: d.M.yyyy}],",
            "seen: {from: seen, type: date, clean: [{date: M/d/yyyy}],",
            "unclear: {from: unclear, type: text,",
            "network: {from: network, type: text,",
            "- call  # telephone numbers",
            "beds: {from: beds, type: exact, clean: [{split: \",\"}],",
            "ima: {from: \"имя\", type: text,");
  }

  @Test
  void rolesOfAResultAreGuessed() {
    List<Map<String, Object>> few =
        tools().stream()
            .map(
                tool -> {
                  Map<String, Object> kept = new LinkedHashMap<>(tool);
                  kept.keySet().retainAll(List.of("name", "tool_no", "picture", "page", "code"));
                  return kept;
                })
            .toList();
    assertThat(FileDraft.of("tools", few))
        .contains(
            "card: {title: name, subtitle: code, picture: picture, link: \"{page}\"}  # how a result looks");
  }

  @Test
  void withoutAKeyNothingIsProposed() {
    assertThatThrownBy(
            () -> FileDraft.of("x", List.of(Map.of("a", 1, "b", 2), Map.of("a", 1, "b", 2))))
        .hasMessageContaining("no column has a different value in each of the first 2 records");
    assertThatThrownBy(() -> FileDraft.of("x", List.of())).hasMessageContaining("no record");
  }
}
