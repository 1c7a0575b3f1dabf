package org.mnemex.engine.query;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class PlainWordsTest {
  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '\u0001',
      textBlock =
          """
          shade fern                        | shade fern
          shade "royal fern" moss           | shade moss
          shade -rust fern                  | shade fern
          shade fern OR moss ivy            | shade ivy
          shade OR fern OR moss             |
          slug NEAR/5 damage fern           | fern
          rose slug BEFORE damage           | rose
          name:fern begin* -                | name:fern begin* -
          """)
  void phrasesExcludedWordsAndPairsStay(String text, String expected) {
    List<PlainWord> words = QueryText.plainWords(text);
    assertThat(String.join(" ", words.stream().map(PlainWord::text).toList()))
        .isEqualTo(expected == null ? "" : expected);
    assertThat(words)
        .allSatisfy(
            word -> assertThat(text.substring(word.start(), word.end())).isEqualTo(word.text()));
  }
}
