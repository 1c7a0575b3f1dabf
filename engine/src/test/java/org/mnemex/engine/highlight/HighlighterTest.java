package org.mnemex.engine.highlight;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.Chars;
import net.jqwik.api.constraints.StringLength;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.search.Marks;
import org.mnemex.engine.text.AnalyserSpec;
import org.mnemex.engine.text.ComponentSpec;
import org.mnemex.engine.text.Components;

class HighlighterTest {
  private static final Field NOTES =
      Field.of("notes", FieldType.TEXT, Components.analysers().get("english"), Use.SEARCH);
  private static final Schema SCHEMA = new Schema(List.of(NOTES));
  private static final Pattern MARK = Pattern.compile("<mark>(.*?)</mark>");

  private static List<String> highlight(String typed, String text, int fragments, int words) {
    Query query = QueryText.parse(typed, Map.of("notes", 1.0), true, false);
    return Marks.of(query, NOTES, SCHEMA)
        .highlight(text, new HighlightRequest("notes", fragments, words), Budget.none());
  }

  @Property
  void withoutMarksItIsTheEscapedTextAndEveryMarkIsAWordThatWasAskedFor(
      @ForAll @StringLength(max = 80) @Chars({'a', 'b', '<', '&', '"', ' ', '\'', 'é', '.', '日'})
          String text) {
    for (String whole : highlight("a b ab", text, 0, 0)) {
      String plain = whole.replace("<mark>", "").replace("</mark>", "");
      assertThat(plain)
          .isEqualTo(
              text.replace("&", "&amp;")
                  .replace("<", "&lt;")
                  .replace(">", "&gt;")
                  .replace("\"", "&quot;")
                  .replace("'", "&#39;"));
      Matcher marks = MARK.matcher(whole);
      while (marks.find()) {
        assertThat(NOTES.analyser().tokens(marks.group(1)).getFirst().text()).isIn("a", "b", "ab");
      }
    }
  }

  @Test
  void stemsPhrasesAndPrefixes() {
    assertThat(highlight("ferns", "A fern & <b>Ferns</b>", 0, 0))
        .containsExactly("A <mark>fern</mark> &amp; &lt;b&gt;<mark>Ferns</mark>&lt;/b&gt;");
    assertThat(highlight("\"slug damage\"", "Slugs. Damage by slug damages.", 0, 0))
        .containsExactly(
            "<mark>Slugs</mark>. <mark>Damage</mark> by <mark>slug</mark> <mark>damages</mark>.");
    assertThat(highlight("\"slug damage\"", "damage, then a slug", 0, 0)).isEmpty();
    assertThat(highlight("\"slug dam*\"", "slug damage, damp, a slug", 0, 0))
        .containsExactly("<mark>slug</mark> <mark>damage</mark>, damp, a slug");
    assertThat(highlight("wi-f*", "wi-fi, not fi, a wife", 0, 0))
        .containsExactly("<mark>wi</mark>-<mark>fi</mark>, not fi, a wife");
    assertThat(highlight("sha*", "shady shade -ash", 0, 0))
        .containsExactly("<mark>shady</mark> <mark>shade</mark> -ash");
  }

  @Test
  void fragmentsAreTheWindowsWithTheMostMarks() {
    String text =
        "one two three fern four five six seven eight nine ten eleven fern moss twelve thirteen";
    assertThat(highlight("fern OR moss", text, 1, 4))
        .containsExactly("… eleven <mark>fern</mark> <mark>moss</mark> twelve …");
  }

  private static final String THREE =
      "Ferns like shade. Water them often, but never at noon! A fern that stands in the sun for long, without any water or shelter, dies within a week or two of summer.";

  private static List<String> sentences(String typed, int words, String... values) {
    Query query = QueryText.parse(typed, Map.of("notes", 1.0), false, false);
    return Marks.of(query, NOTES, SCHEMA)
        .highlight(
            List.of(values),
            new HighlightRequest("notes", 2, words, true, "[", "]"),
            Budget.none());
  }

  @Test
  void fragmentsAreSentencesWhereTheyFit() {
    assertThat(sentences("fern", 6, THREE)).first().asString().isEqualTo("[Ferns] like shade.");
    assertThat(sentences("water", 9, THREE).getFirst())
        .isEqualTo("[Water] them often, but never at noon!");
    assertThat(sentences("sun", 8, THREE))
        .as("a sentence that is too long is cut")
        .singleElement()
        .asString()
        .matches("… .*\\[sun].* …");
    assertThat(sentences("fern water", 12, "No match here.", "Moss. Fern, water.", "A fern."))
        .as("the best of all values, in their order")
        .containsExactly("[Fern], [water].", "A [fern].");
  }

  @Test
  void markupThatTheAnalyserTakesOutIsNotShown() {
    Field html =
        Field.of(
            "notes",
            FieldType.TEXT,
            Components.analyser(
                "own",
                new AnalyserSpec(
                    List.of(ComponentSpec.of("strip_html")),
                    ComponentSpec.of("words"),
                    List.of(ComponentSpec.of("lowercase")))),
            Use.SEARCH);
    assertThat(
            Marks.of(
                    new Query.Word(Map.of("notes", 1.0), "fern", false),
                    html,
                    new Schema(List.of(html)))
                .highlight(
                    "<p>A <b>fern</b> &amp; 1 &lt; 2</p>",
                    new HighlightRequest("notes", 0, 0),
                    Budget.none()))
        .singleElement()
        .asString()
        .isEqualToIgnoringWhitespace("A <mark>fern</mark> &amp; 1 &lt; 2");
    Field exact = Field.of("bed", FieldType.EXACT, null, Use.SEARCH, Use.SHOW);
    assertThat(
            Marks.of(
                    new Query.Word(Map.of("bed", 1.0), "Fern house", false),
                    exact,
                    new Schema(List.of(exact)))
                .highlight(
                    List.of("Wall", "Fern house"),
                    new HighlightRequest("bed", 0, 0),
                    Budget.none()))
        .containsExactly("<mark>Fern house</mark>");
  }
}
