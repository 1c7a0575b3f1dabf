package org.mnemex.sync.extract;

import org.jsoup.nodes.Document;
import org.jsoup.nodes.Element;
import org.jsoup.nodes.Node;
import org.jsoup.nodes.TextNode;
import org.jsoup.parser.Parser;
import org.jsoup.select.NodeVisitor;

/** The text of HTML, with a space wherever a block begins or ends. */
public final class HtmlText {
  private HtmlText() {}

  /** The text of a document's body. */
  public static String of(Document document) {
    Text text = new Text();
    document.body().traverse(text);
    return text.out.toString();
  }

  /** The text of HTML that stands in a body. */
  public static String ofFragment(String html) {
    Text text = new Text();
    Element body = new Element("body");
    text.head(body, 0);
    // A document around it would be made for nothing.
    for (Node node : Parser.htmlParser().parseFragmentInput(html, body, "")) {
      node.traverse(text);
    }
    text.tail(body, 0);
    return text.out.toString();
  }

  private static final class Text implements NodeVisitor {
    private final StringBuilder out = new StringBuilder();

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
  }
}
