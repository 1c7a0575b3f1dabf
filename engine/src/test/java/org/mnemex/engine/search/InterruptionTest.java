package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** What one call does for long without giving anything looks at the clock meanwhile. */
class InterruptionTest {
  private static final int DOCUMENTS = 1_000_000;
  private static final int PARTS = 3;

  /** A clock that is 1 ms later at every look. */
  private final AtomicLong looks = new AtomicLong();

  private Budget budget(boolean partial) {
    return new Budget(
        new SearchLimits(10, Long.MAX_VALUE, 1000, partial),
        () -> looks.incrementAndGet() * 1_000_000,
        DOCUMENTS);
  }

  /** Sets without a common document that lie side by side everywhere. */
  private static List<Matcher> disjoint() {
    List<Matcher> matchers = new ArrayList<>();
    for (int part = 0; part < PARTS; part++) {
      DocBits bits = new DocBits(DOCUMENTS);
      for (int doc = part; doc < DOCUMENTS; doc += PARTS) {
        bits.set(doc);
      }
      matchers.add(new Matcher.Bits(bits));
    }
    return matchers;
  }

  private void isInterrupted(Matcher whole, Matcher partial) {
    assertThatThrownBy(whole::next).isInstanceOf(SearchTimeoutException.class);
    assertThat(partial.next()).isEqualTo(Matcher.END);
    assertThat(looks.get()).as("looks at the clock").isLessThan(30);
  }

  @Test
  void clausesWithoutACommonDocument() {
    isInterrupted(
        new Matcher.All(disjoint(), List.of(), budget(false)),
        new Matcher.All(disjoint(), List.of(), budget(true)));
  }

  @Test
  void tooFewOfTheClausesTogether() {
    isInterrupted(
        new Matcher.Some(2, disjoint(), budget(false)),
        new Matcher.Some(2, disjoint(), budget(true)));
  }

  @Test
  void aValueOfAMillionWords() {
    Field notes =
        Field.of("notes", FieldType.TEXT, Components.analysers().get("english"), Use.SEARCH);
    Highlighter fern =
        Marks.of(
            new Query.Word(Map.of("notes", 1.0), "fern", false), notes, new Schema(List.of(notes)));
    String text = "moss and fern ".repeat(DOCUMENTS / 3);
    HighlightRequest fragments = new HighlightRequest("notes", 2, 20);
    assertThatThrownBy(() -> fern.highlight(text, fragments, budget(false)))
        .isInstanceOf(SearchTimeoutException.class);
    assertThat(looks.get()).as("looks at the clock").isLessThan(15);
    assertThat(fern.highlight("a fern", fragments, budget(true)))
        .containsExactly("a <mark>fern</mark>");
  }
}
