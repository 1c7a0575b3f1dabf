package org.mnemex.sync.mapping;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.jsoup.Jsoup;
import org.jsoup.nodes.Element;
import org.jsoup.nodes.Node;
import org.jsoup.nodes.TextNode;
import org.jsoup.select.NodeVisitor;
import org.mnemex.sync.definition.CleanStep;

/** Applies clean-up steps to values. */
final class Cleaner {
  private Cleaner() {}

  /** The values after all steps; empty texts are dropped. */
  static List<String> clean(List<String> values, List<CleanStep> steps) {
    List<String> now = values;
    for (CleanStep step : steps) {
      List<String> next = new ArrayList<>();
      for (String value : now) {
        switch (step) {
          case CleanStep.Trim trim -> next.add(value.strip());
          case CleanStep.Squeeze squeeze -> next.add(squeezed(value));
          case CleanStep.StripHtml html -> next.add(text(value));
          case CleanStep.Split split -> cut(value, split.separator(), next);
          case CleanStep.Lower lower -> next.add(value.toLowerCase(Locale.ROOT));
          case CleanStep.Upper upper -> next.add(value.toUpperCase(Locale.ROOT));
        }
      }
      now = next;
    }
    for (String value : now) {
      if (value.isEmpty()) {
        return now.stream().filter(text -> !text.isEmpty()).toList();
      }
    }
    return now;
  }

  private static void cut(String value, String separator, List<String> parts) {
    int from = 0;
    for (int at = value.indexOf(separator); at >= 0; at = value.indexOf(separator, from)) {
      parts.add(value.substring(from, at));
      from = at + separator.length();
    }
    parts.add(value.substring(from));
  }

  private static String squeezed(String value) {
    StringBuilder out = new StringBuilder(value.length());
    for (int i = 0; i < value.length(); i++) {
      char c = value.charAt(i);
      if (!Character.isWhitespace(c) && !Character.isSpaceChar(c)) {
        out.append(c);
      } else if (!out.isEmpty() && out.charAt(out.length() - 1) != ' ') {
        out.append(' ');
      }
    }
    return out.toString().stripTrailing();
  }

  /** The text of an HTML fragment, with a space wherever a block begins or ends. */
  private static String text(String html) {
    if (html.indexOf('<') < 0 && html.indexOf('&') < 0) {
      return html;
    }
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
