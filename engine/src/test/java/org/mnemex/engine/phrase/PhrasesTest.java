package org.mnemex.engine.phrase;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.phrase.Phrases.Fit;
import org.mnemex.engine.phrase.Phrases.Found;
import org.mnemex.engine.phrase.Phrases.Phrase;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.text.EditDistance;

class PhrasesTest {
  /** Few letters, so that much of it begins alike. */
  @Provide
  Arbitrary<String> texts() {
    return Arbitraries.strings()
        .withChars('a', 'b', 'A', 'ä')
        .ofMinLength(1)
        .ofMaxLength(8)
        .list()
        .ofMinSize(1)
        .ofMaxSize(4)
        .map(words -> String.join(" ", words));
  }

  @Provide
  Arbitrary<List<Phrase>> phrases() {
    return texts()
        .list()
        .ofMaxSize(30)
        .uniqueElements(PhrasesTest::folded)
        .map(
            texts -> {
              List<Phrase> phrases = new ArrayList<>();
              texts.forEach(text -> phrases.add(new Phrase(text, phrases.size() % 5)));
              return phrases;
            });
  }

  private static String folded(String text) {
    return text.toLowerCase(Locale.ROOT).replace('ä', 'a');
  }

  /** Compared with looking at each word of each phrase. */
  @Property(tries = 2000)
  void findsWhatLookingAtEveryWordFinds(
      @ForAll("phrases") List<Phrase> phrases, @ForAll("texts") String typed) {
    List<Found> expected =
        phrases.stream()
            .map(phrase -> best(phrase, folded(typed)))
            .filter(Objects::nonNull)
            .sorted(Found.BEST_FIRST)
            .toList();
    assertThat(Phrases.of(phrases).find(typed, Integer.MAX_VALUE))
        .extracting(one -> one.phrase().text() + " " + one.fit())
        .containsExactlyElementsOf(
            expected.stream().map(one -> one.phrase().text() + " " + one.fit()).toList());
  }

  private static @Nullable Found best(Phrase phrase, String typed) {
    String[] words = folded(phrase.text()).split(" ");
    Found best = null;
    int edits = Edits.of(typed);
    for (int word = 0; word < words.length; word++) {
      String rest = String.join(" ", List.of(words).subList(word, words.length));
      Fit fit =
          rest.startsWith(typed)
              ? word == 0 ? Fit.BEGINS : Fit.INSIDE
              : EditDistance.within(typed, rest, edits, 1, true) ? Fit.ERRORS : null;
      if (fit != null && (best == null || fit.compareTo(best.fit()) < 0)) {
        best = new Found(phrase, fit, word, typed.split(" ").length);
      }
    }
    return best;
  }

  @Test
  void marksTheTypedWords() {
    Phrases phrases =
        Phrases.of(
            List.of(
                new Phrase("Rosé & <fern> garden", 1),
                new Phrase("rose walk", 5),
                new Phrase("ROSE  walk", 2)));
    assertThat(phrases.size()).isEqualTo(2);
    assertThat(phrases.find("fern gar", 8))
        .extracting(Found::marked)
        .containsExactly("Rosé &amp; &lt;<mark>fern&gt; garden</mark>");
    assertThat(phrases.find("ros", 8))
        .extracting(Found::marked)
        .containsExactly("<mark>rose</mark> walk", "<mark>Rosé</mark> &amp; &lt;fern&gt; garden");
    // A closed word does not go on.
    assertThat(phrases.find("ros ", 8)).isEmpty();
    assertThat(phrases.find("rsoe wlk", 8))
        .extracting(Found::marked)
        .containsExactly("<mark>rose walk</mark>");
    assertThat(phrases.find(" -", 8)).isEmpty();
  }
}
