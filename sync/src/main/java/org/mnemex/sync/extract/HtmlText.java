package org.mnemex.sync.extract;

import org.jsoup.nodes.Document;
import org.jsoup.nodes.Element;
import org.jsoup.nodes.Node;
import org.jsoup.nodes.TextNode;
import org.jsoup.select.NodeVisitor;

/** The text of HTML, with a space wherever a block begins or ends. */
public final class HtmlText {
  private HtmlText() {}

  /** The text of a document's body. */
  public static String of(Document document) {
    StringBuilder out = new StringBuilder();
    document
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
