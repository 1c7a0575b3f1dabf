package org.mnemex.engine.text;

import java.util.Map;
import java.util.Set;

/** Built-in stopword lists, in the form that stands after {@code lowercase} and {@code fold}. */
final class Stopwords {
  private static final Map<String, Set<String>> LISTS =
      Map.of(
          "english",
          words(
              """
              a an and are as at be been but by for from had has have he her his i if in into is it
              its me my no nor not of on or our she so such that the their them then there these
              they this those to was we were what when where which while who whom will with you
              your
              """),
          "french",
          words(
              """
              a ai as au aux avec c ce ces cet cette d dans de des du elle elles en est et eux il
              ils j je l la le les leur leurs lui m ma mais me mes moi mon n ne nos notre nous on
              ont ou par pas pour qu que qui s sa sans se ses soi son sont sur t ta te tes toi ton
              tu un une vos votre vous y
              """),
          "german",
          words(
              """
              aber als also am an auch auf aus bei bin bis bist da dann das dass dem den denn der
              des die dies diese diesem diesen dieser dieses doch du ein eine einem einen einer
              eines er es fur hat hatte ich ihm ihn ihr ihre im in ist ja kein keine mein mit nach
              nicht noch nur ob oder sehr sein seine sich sie sind so um und uns unter vom von vor
              war was wenn wer wie wir wird wo zu zum zur
              """));

  private Stopwords() {}

  static Set<String> of(String language) {
    return LISTS.getOrDefault(language, Set.of());
  }

  static Set<String> languages() {
    return LISTS.keySet();
  }

  private static Set<String> words(String list) {
    return Set.of(list.strip().split("\\s+"));
  }
}
