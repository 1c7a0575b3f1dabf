package org.mnemex.engine.text;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.CharRange;
import net.jqwik.api.constraints.Chars;
import net.jqwik.api.constraints.StringLength;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class AnalysisTest {
  @Property(tries = 3000)
  void asciiLoopCutsAsTheStandardDoes(
      @ForAll
          @StringLength(max = 40)
          @Chars({'a', 'Z', '0', '9', '_', '.', ',', '\'', ';', '-', ' '})
          @CharRange(from = ' ', to = '~')
          String text) {
    List<AnalysedToken> fast = new ArrayList<>();
    List<AnalysedToken> standard = new ArrayList<>();
    WordsTokeniser.tokeniseAscii(text, token -> fast.add(AnalysedToken.of(token)));
    WordsTokeniser.tokeniseUnicode(text, token -> standard.add(AnalysedToken.of(token)));
    assertThat(fast).isEqualTo(standard);
  }

  @Property
  void offsetsPointIntoTheOriginalTextAndPositionsGrow(
      @ForAll @StringLength(max = 60) String text) {
    for (Analyser analyser : Components.analysers().values()) {
      int last = -1;
      for (AnalysedToken token : analyser.tokens(text)) {
        assertThat(token.start()).isBetween(0, text.length());
        assertThat(token.end()).isBetween(token.start() + 1, text.length());
        assertThat(token.position()).isGreaterThan(last);
        last = token.position();
      }
    }
  }

  @ParameterizedTest
  @CsvSource({
    "english, The gardeners' ferns weren't washed, garden fern weren't wash",
    "english, ashes and an ash, ash ash",
    "french, L’arbre à feuilles étroites, arbre feuill etroit",
    "german, Die größeren Bäume im Garten, gross baum gart",
    "words, Ｆｕｌｌ Ångström Œuvre, full angstrom oeuvre",
    "words, がくアジサイ, が く アジサイ",
    "whole, Hart's-Tongue Fern, hart's-tongue fern",
  })
  void builtInAnalysers(String analyser, String text, String expected) {
    List<AnalysedToken> tokens = Components.analysers().get(analyser).tokens(text);
    assertThat(String.join(" ", tokens.stream().map(AnalysedToken::text).toList()))
        .isEqualTo(expected);
  }

  @Test
  void traceShowsEveryStepAndStopwordsLeaveAHole() {
    List<Analyser.Step> steps = Components.analysers().get("english").trace("Ferns of shade");
    assertThat(steps)
        .extracting(Analyser.Step::name)
        .containsExactly(
            "words", "possessive", "lowercase", "fold", "stop: english", "stem: english");
    assertThat(steps.getFirst().tokens())
        .extracting(AnalysedToken::text)
        .containsExactly("Ferns", "of", "shade");
    assertThat(steps.getLast().tokens()).extracting(AnalysedToken::position).containsExactly(0, 2);
  }

  @Test
  void aTokenWithoutEndIsCut() {
    List<AnalysedToken> tokens =
        Components.analysers().get("words").tokens("x".repeat(1_000_000) + " end");
    assertThat(tokens).extracting(token -> token.text().length()).containsExactly(255, 3);
  }
}
