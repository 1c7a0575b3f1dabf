package org.mnemex.engine.text;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.CharRange;
import net.jqwik.api.constraints.Chars;
import net.jqwik.api.constraints.StringLength;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class AnalysisTest {
  @Property(tries = 3000)
  void plainLoopCutsAsTheStandardDoes(
      @ForAll
          @StringLength(max = 40)
          @Chars({'a', 'Z', '0', '9', '_', '.', ',', '\'', ';', '-', ' ', '’', 'é', 'ж', 'ς', 'ا'})
          @CharRange(from = ' ', to = '~')
          String text) {
    cutsAsTheStandardDoes(text);
  }

  @Property(tries = 3000)
  void anyTextIsCutAndFoldedAsTheStandardsDo(
      @ForAll
          @StringLength(max = 30)
          @CharRange(from = 0, to = 0x5FF)
          @CharRange(from = 0x600, to = 0x700)
          @CharRange(from = 0x1E00, to = 0x20FF)
          @CharRange(from = 0x2C00, to = 0x2C20)
          @Chars({' ', 'a', '1', '\'', '.'})
          String text) {
    cutsAsTheStandardDoes(text);
    assertThat(Folding.fold(text)).isEqualTo(Folding.foldAny(text));
  }

  @Test
  void everyPlainCharacterIsCutAndFoldedAsTheStandardsDo() {
    for (char c = 0; c < 0x3000; c++) {
      for (String text : List.of("" + c, "a" + c + "b 1" + c + "2", c + "_" + c, "ж" + c + "ä́")) {
        cutsAsTheStandardDoes(text);
        assertThat(Folding.fold(text)).as(text).isEqualTo(Folding.foldAny(text));
      }
    }
  }

  private static void cutsAsTheStandardDoes(String text) {
    List<AnalysedToken> fast = new ArrayList<>();
    List<AnalysedToken> standard = new ArrayList<>();
    if (WordsTokeniser.tokenisePlain(
        text.toCharArray(), token -> fast.add(AnalysedToken.of(token)))) {
      WordsTokeniser.tokeniseUnicode(
          text, text.toCharArray(), token -> standard.add(AnalysedToken.of(token)));
      assertThat(fast).as(text).isEqualTo(standard);
    }
  }

  @Property
  void offsetsPointIntoTheOriginalTextAndPositionsGrow(
      @ForAll @StringLength(max = 60) String text) {
    for (Analyser analyser : Components.analysers().values()) {
      int last = -1;
      for (AnalysedToken token : analyser.tokens(text)) {
        assertThat(token.start()).isBetween(0, text.length());
        assertThat(token.end()).isBetween(token.start() + 1, text.length());
        assertThat(token.position()).isGreaterThanOrEqualTo(last);
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
            "words", "possessive", "lowercase", "stop: english", "stem: english", "fold");
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

  private static Analyser chain(String text, String tokeniser, String filters) {
    return Components.analyser(
        "test", new AnalyserSpec(steps(text), steps(tokeniser).getFirst(), steps(filters)));
  }

  /** {@code name} or {@code name=value} or {@code name=option:value}, separated by {@code |}. */
  private static List<ComponentSpec> steps(String text) {
    List<ComponentSpec> steps = new ArrayList<>();
    for (String step : text == null ? new String[0] : text.split("\\|")) {
      String[] parts = step.strip().split("=", 2);
      if (parts.length == 1) {
        steps.add(ComponentSpec.of(parts[0]));
        continue;
      }
      Map<String, List<String>> options = new LinkedHashMap<>();
      for (String option : parts[1].split(";")) {
        String[] pair = option.split(":", 2);
        options.put(
            pair.length == 1 ? ComponentSpec.MAIN : pair[0],
            List.of(pair[pair.length - 1].split(",")));
      }
      steps.add(new ComponentSpec(parts[0], options));
    }
    return steps;
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '!',
      quoteCharacter = '"',
      textBlock =
          """
          strip_html                ! words ! lowercase           ! <p>Fe<b>rn</b> &amp; m&ouml;ss</p>x<script>no</script> ! fern möss x
          normalise=nfkc_fold       ! words !                     ! Ｆｕｌｌ ﬁn Straße                 ! full fin strasse
          map=C++:cplusplus;&:and   ! words !                     ! C++ & ferns                      ! cplusplus and ferns
          replace=find:(\\d+)cm;with:$1 ! words !                 ! 30cm tall                        ! 30 tall
                                    ! whitespace !                ! XR-500b  (old)                   ! XR-500b (old)
                                    ! letters !                   ! XR-500b old                      ! XR b old
                                    ! pattern=find:[a-z]+ !       ! ab12cd                           ! ab cd
                                    ! pattern=find:\\W;between:true ! ! ab,cd,                         ! ab cd
                                    ! path !                      ! /a/b/c                           ! a a/b a/b/c
                                    ! ngrams=min:2;max:2 !        ! fern                             ! fe er rn
                                    ! cjk_pairs !                 ! 東京都 fern 木                     ! 東京 京都 fern 木
                                    ! words ! lowercase=turkish   ! ISIRGAN İğne                     ! ısırgan iğne
                                    ! words ! lowercase=greek     ! ΦΎΛΛΟΣ                           ! φύλλοσ
                                    ! words ! lowercase | protect=ferns | stem=english ! Ferns leaves ! ferns leav
                                    ! words ! lowercase | stem=language:english;keep:true ! Ferns ash ! ferns fern ash
                                    ! words ! prefixes=min:2;max:3 ! fern                            ! fe fer
                                    ! words ! ngrams=min:3;max:3  ! fern                             ! fer ern
                                    ! words ! word_pairs          ! leaf mould heap                  ! leaf leaf mould mould mould heap heap
                                    ! whitespace ! split_words    ! XR-500b leafMould HTMLPage       ! XR500b XR 500 b leafMould leaf Mould HTMLPage HTML Page
                                    ! words ! phonetic=double_metaphone ! Smith Smyth 42             ! SM0 SM0 42
                                    ! words ! phonetic=cologne    ! Meier Maier                      ! 67 67
                                    ! words ! length=min:2;max:3  ! a ab abc abcd                    ! ab abc
                                    ! pattern=find:[a-z ]+ ! trim ! "4 ab 5cd"                       ! ab cd
                                    ! words ! lowercase | stem=language:english;keep:true | unique ! fern ferns ! fern ferns fern
                                    ! words ! replace=find:s$;with: ! ferns moss                     ! fern mos
                                    ! words ! keep_words=fern,moss ! fern ash moss                   ! fern moss
                                    ! words ! reverse             ! fern                             ! nref
                                    ! words ! limit=tokens:2      ! a b c                            ! a b
                                    ! words ! stop=de,la          ! de la fern                       ! fern
          """)
  void everyStepDoesWhatItsNameSays(
      String before, String tokeniser, String filters, String text, String expected) {
    List<AnalysedToken> tokens = chain(before, tokeniser, filters).tokens(text);
    assertThat(String.join(" ", tokens.stream().map(AnalysedToken::text).toList()))
        .isEqualTo(expected);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '!',
      quoteCharacter = '"',
      textBlock =
          """
          strip_htm ! words ! lowercase ! there is no step for the text 'strip_htm'
                    ! wordz ! lowercase ! there is no tokeniser 'wordz'
                    ! words ! lowercas  ! there is no token filter 'lowercas'
                    ! words ! stem=klingon ! 'stem': there is no language 'klingon'
                    ! words ! stop=klingon ! there are no stopwords for 'klingon'
                    ! words ! prefixes=min:0 ! 'min' is a number from 1 to 20
                    ! words ! prefixes=least:2 ! has no option 'least'; it has max, min
                    ! words ! fold=yes     ! takes no value
                    ! pattern=find:( !     ! is not a regular expression
                    ! words ! synonyms     ! needs a list of rules
          map=x     ! words !              ! needs pairs
          """)
  void whatDoesNotFitIsRefusedInWords(
      String before, String tokeniser, String filters, String message) {
    Assertions.assertThatThrownBy(() -> chain(before, tokeniser, filters))
        .isInstanceOf(ComponentException.class)
        .hasMessageContaining(message);
  }

  @Property
  void theMarkedPartOfTheOriginalGivesTheToken(@ForAll("markup") String text) {
    Analyser analyser = chain("strip_html | normalise=nfkc_fold | map=zz:y", "words", "fold");
    for (AnalysedToken token : analyser.tokens(text)) {
      String part = text.substring(token.start(), token.end());
      assertThat(analyser.tokens(part))
          .as(part)
          .extracting(AnalysedToken::text)
          .contains(token.text());
    }
  }

  @net.jqwik.api.Provide
  net.jqwik.api.Arbitrary<String> markup() {
    return net.jqwik.api.Arbitraries.of(
            "fern",
            "zz",
            "É",
            "e\u0301",
            "<b>",
            "</b>",
            "<p class='x'>",
            "&amp;",
            "&eacute;",
            " ",
            "ﬁ",
            "<",
            "&",
            "&#x1F33F;",
            "Ａ",
            "7",
            "<br>",
            "<!-- no -->",
            "ß")
        .list()
        .ofMaxSize(14)
        .map(parts -> String.join("", parts));
  }

  @Test
  void synonymsOfSeveralWordsAreAGraphForQueries() {
    Analyser two =
        Components.analyser(
            "two",
            new AnalyserSpec(
                List.of(),
                ComponentSpec.of("words"),
                List.of(
                    ComponentSpec.of("lowercase"),
                    ComponentSpec.of(
                        "synonyms", "USA, United States of America", "tv => television set"))));
    List<String> ways =
        TokenPaths.of(two.forQueries().tokens("old usa tv shows")).stream()
            .map(path -> path.slots().stream().map(List::getFirst).collect(Collectors.joining(" ")))
            .toList();
    assertThat(ways)
        .containsExactlyInAnyOrder(
            "old usa television set shows", "old united states of america television set shows");
    assertThat(
            TokenPaths.of(two.forQueries().tokens("united states")).stream()
                .map(TokenPaths.Path::slots))
        .containsExactly(List.of(List.of("united"), List.of("states")));
  }

  @Test
  void thirtyLanguagesAndMoreAreBuiltInAndCanBeWrittenDown() {
    assertThat(Components.analysers().size()).isGreaterThanOrEqualTo(34);
    assertThat(Components.analysers().get("french").spec().yaml("mine"))
        .isEqualTo(
            """
            analyser: mine
            tokeniser: words
            filters:
              - elide
              - lowercase
              - {stop: french}
              - {stem: french}
              - fold
            """);
    for (String language :
        List.of("russian", "spanish", "swedish", "turkish", "arabic", "hungarian")) {
      Analyser analyser = Components.analysers().get(language);
      assertThat(analyser.tokens("Asplenium 2026")).as(language).hasSize(2);
    }
    assertThat(Components.analysers().get("russian").tokens("растениями"))
        .extracting(AnalysedToken::text)
        .isEqualTo(
            Components.analysers().get("russian").tokens("растения").stream()
                .map(AnalysedToken::text)
                .toList());
    assertThat(Components.analysers().get("thai").tokens("ต้นไม้สีเขียว").size()).isGreaterThan(1);
  }

  @Test
  void harmIsSaidBeforeItIsDone() {
    assertThat(chain(null, "words", "stop=english | lowercase").warnings()).hasSize(1);
    assertThat(chain(null, "words", "lowercase | fold | stem=english | stop=english").warnings())
        .hasSize(2);
    assertThat(chain(null, "ngrams=min:2", "lowercase").warnings()).hasSize(1);
    assertThat(Components.analysers().values()).allMatch(analyser -> analyser.warnings().isEmpty());
    assertThat(Components.analysers().get("prefixes").forQueries().tokens("fern")).hasSize(1);
  }

  @Test
  void awkwardTextsPass() {
    String awkward =
        "lone \uD83C half \uDF3F, nul \u0000 in, \u202eright to left\u202c שלום, "
            + "x".repeat(1_000_000);
    for (Analyser analyser : Components.analysers().values()) {
      assertThat(analyser.tokens(awkward)).as(analyser.name()).isNotEmpty();
    }
    assertThat(chain("strip_html | normalise", "words", "fold").tokens("<".repeat(100_000) + "a"))
        .hasSize(1);
    Analyser html = chain("strip_html", "words", "fold");
    // A capital whose lower case is longer must not shift what is dropped.
    assertThat(html.tokens("İİİİ <SCRIPT>no</Script> fern").getLast().text()).isEqualTo("fern");
    assertThat(html.tokens("İİİİ <SCRIPT>no</Script> fern")).hasSize(2);
    // Without a limit on what is looked ahead, these would take time with the square of their
    // length.
    assertThat(html.tokens("&".repeat(2_000_000) + " fern")).hasSize(1);
    assertThat(html.tokens("<script>x</script>".repeat(100_000) + " fern")).hasSize(1);
  }
}
