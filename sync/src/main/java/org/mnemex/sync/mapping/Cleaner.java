package org.mnemex.sync.mapping;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.regex.Pattern;
import org.jsoup.Jsoup;
import org.jsoup.nodes.Element;
import org.jsoup.nodes.Node;
import org.jsoup.nodes.TextNode;
import org.jsoup.select.NodeVisitor;
import org.mnemex.sync.definition.CleanStep;

/** Applies clean-up steps to values. */
final class Cleaner {
  private static final Pattern SPACE = Pattern.compile("\\s+");

  private Cleaner() {}

  /** The values after all steps; empty texts are dropped. */
  static List<String> clean(List<String> values, List<CleanStep> steps) {
    List<String> now = values;
    for (CleanStep step : steps) {
      List<String> next = new ArrayList<>();
      for (String value : now) {
        switch (step) {
          case CleanStep.Trim trim -> next.add(value.strip());
          case CleanStep.Squeeze squeeze -> next.add(SPACE.matcher(value).replaceAll(" ").strip());
          case CleanStep.StripHtml html -> next.add(text(value));
          case CleanStep.Split split ->
              next.addAll(List.of(value.split(Pattern.quote(split.separator()), -1)));
          case CleanStep.Lower lower -> next.add(value.toLowerCase(Locale.ROOT));
          case CleanStep.Upper upper -> next.add(value.toUpperCase(Locale.ROOT));
        }
      }
      now = next;
    }
    return now.stream().filter(value -> !value.isEmpty()).toList();
  }

  /** The text of an HTML fragment, with a space wherever a block begins or ends. */
  private static String text(String html) {
    StringBuilder out = new StringBuilder();
    Jsoup.parseBodyFragment(html)
        .body()
        .traverse(
            new NodeVisitor() {
              @Override
              public void head(Node node, int depth) {
                if (node instanceof TextNode text) {
                  out.append(text.getWholeText());
                } else {
                  space(node);
                }
              }

              @Override
              public void tail(Node node, int depth) {
                space(node);
              }

              private void space(Node node) {
                if (node instanceof Element element
                    && (element.isBlock() || element.normalName().equals("br"))) {
                  out.append(' ');
                }
              }
            });
    return out.toString();
  }
}
