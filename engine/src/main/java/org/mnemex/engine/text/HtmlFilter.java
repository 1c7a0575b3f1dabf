package org.mnemex.engine.text;

import java.util.HashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * HTML to plain text: tags and comments go, what is in script and style goes with them, character
 * references become characters, tags of blocks become a line break so that words do not run
 * together. Anything that is not quite HTML is taken as text.
 */
final class HtmlFilter implements CharFilter {
  private static final Set<String> BLOCKS =
      Set.of(
          "address",
          "article",
          "aside",
          "blockquote",
          "br",
          "button",
          "canvas",
          "caption",
          "dd",
          "details",
          "dialog",
          "div",
          "dl",
          "dt",
          "fieldset",
          "figcaption",
          "figure",
          "footer",
          "form",
          "h1",
          "h2",
          "h3",
          "h4",
          "h5",
          "h6",
          "header",
          "hr",
          "li",
          "main",
          "nav",
          "ol",
          "option",
          "p",
          "pre",
          "section",
          "select",
          "summary",
          "table",
          "tbody",
          "td",
          "textarea",
          "tfoot",
          "th",
          "thead",
          "title",
          "tr",
          "ul",
          "video");
  private static final Set<String> DROPPED = Set.of("script", "style", "template", "noscript");
  private static final int LONGEST_REFERENCE = 12;
  private static final Map<String, String> NAMED = named();

  @Override
  public String name() {
    return "strip_html";
  }

  @Override
  public boolean makesReadable() {
    return true;
  }

  @Override
  public MappedText apply(MappedText text) {
    String from = text.text();
    if (from.indexOf('<') < 0 && from.indexOf('&') < 0) {
      return text;
    }
    MappedText.Builder out = text.change();
    int at = 0;
    while (at < from.length()) {
      char c = from.charAt(at);
      int end = c == '<' ? tag(from, at, out) : c == '&' ? reference(from, at, out) : -1;
      if (end < 0) {
        out.keep(at, at + 1);
        at++;
      } else {
        at = end;
      }
    }
    return out.build();
  }

  /** Writes what a tag becomes and returns its end, or -1 if this is no tag. */
  private static int tag(String from, int at, MappedText.Builder out) {
    if (from.startsWith("<!--", at)) {
      int end = from.indexOf("-->", at + 4);
      return end < 0 ? from.length() : end + 3;
    }
    int name = at + 1;
    if (name < from.length() && (from.charAt(name) == '/' || from.charAt(name) == '!')) {
      name++;
    }
    int end = name;
    while (end < from.length() && Character.isLetterOrDigit(from.charAt(end))) {
      end++;
    }
    if (end == name || !Character.isLetter(from.charAt(name))) {
      return -1;
    }
    String word = from.substring(name, end).toLowerCase(Locale.ROOT);
    int close = endOfTag(from, end);
    if (close < 0) {
      return -1;
    }
    if (BLOCKS.contains(word)) {
      out.replace(at, close, "\n");
    }
    if (from.charAt(at + 1) != '/' && DROPPED.contains(word)) {
      int over = closingTag(from, word, close);
      int last = over < 0 ? from.length() : endOfTag(from, over);
      out.replace(at, Math.max(close, last < 0 ? from.length() : last), "\n");
      return last < 0 ? from.length() : last;
    }
    return close;
  }

  /** Where the closing tag of a name begins, or -1. */
  private static int closingTag(String from, String word, int at) {
    for (int i = from.indexOf("</", at); i >= 0; i = from.indexOf("</", i + 2)) {
      if (from.regionMatches(true, i + 2, word, 0, word.length())) {
        return i;
      }
    }
    return -1;
  }

  /** Behind the {@code >} that is not in quotes, or -1. */
  private static int endOfTag(String from, int at) {
    char quote = 0;
    for (int i = at; i < from.length(); i++) {
      char c = from.charAt(i);
      if (quote != 0) {
        quote = c == quote ? 0 : quote;
      } else if (c == '"' || c == '\'') {
        quote = c;
      } else if (c == '>') {
        return i + 1;
      } else if (c == '<' && i > at) {
        return -1;
      }
    }
    return -1;
  }

  private static int reference(String from, int at, MappedText.Builder out) {
    int semicolon = from.indexOf(';', at, Math.min(from.length(), at + LONGEST_REFERENCE + 1));
    if (semicolon < 0) {
      return -1;
    }
    String decoded = decode(from.substring(at + 1, semicolon));
    if (decoded == null) {
      return -1;
    }
    out.replace(at, semicolon + 1, decoded);
    return semicolon + 1;
  }

  private static @Nullable String decode(String reference) {
    if (!reference.startsWith("#")) {
      return NAMED.get(reference);
    }
    try {
      boolean hex = reference.startsWith("#x") || reference.startsWith("#X");
      int point = Integer.parseInt(reference.substring(hex ? 2 : 1), hex ? 16 : 10);
      return point > 0
              && Character.isValidCodePoint(point)
              && !(point >= Character.MIN_SURROGATE && point <= Character.MAX_SURROGATE)
          ? Character.toString(point)
          : "\uFFFD";
    } catch (NumberFormatException e) {
      return null;
    }
  }

  /** The named references of HTML 4.01, sections 24.2 to 24.4. */
  private static Map<String, String> named() {
    Map<String, String> named = new HashMap<>();
    String latin =
        "nbsp iexcl cent pound curren yen brvbar sect uml copy ordf laquo not shy reg macr deg"
            + " plusmn sup2 sup3 acute micro para middot cedil sup1 ordm raquo frac14 frac12 frac34"
            + " iquest Agrave Aacute Acirc Atilde Auml Aring AElig Ccedil Egrave Eacute Ecirc Euml"
            + " Igrave Iacute Icirc Iuml ETH Ntilde Ograve Oacute Ocirc Otilde Ouml times Oslash"
            + " Ugrave Uacute Ucirc Uuml Yacute THORN szlig agrave aacute acirc atilde auml aring"
            + " aelig ccedil egrave eacute ecirc euml igrave iacute icirc iuml eth ntilde ograve"
            + " oacute ocirc otilde ouml divide oslash ugrave uacute ucirc uuml yacute thorn yuml";
    int point = 160;
    for (String name : latin.split(" ")) {
      named.put(name, Character.toString(point++));
    }
    String greek =
        "Alpha Beta Gamma Delta Epsilon Zeta Eta Theta Iota Kappa Lambda Mu Nu Xi Omicron Pi Rho -"
            + " Sigma Tau Upsilon Phi Chi Psi Omega";
    point = 0x391;
    for (String name : greek.split(" ")) {
      named.put(name, Character.toString(point));
      named.put(name.toLowerCase(Locale.ROOT), Character.toString(point++ + 32));
    }
    String[] others = {
      "amp", "&", "lt", "<", "gt", ">", "quot", "\"", "apos", "'", "sigmaf", "ς", "OElig", "Œ",
      "oelig", "œ", "Scaron", "Š", "scaron", "š", "Yuml", "Ÿ", "fnof", "ƒ", "circ", "ˆ", "tilde",
      "˜", "ensp", "\u2002", "emsp", "\u2003", "thinsp", "\u2009", "zwnj", "\u200C", "zwj",
      "\u200D", "ndash", "–", "mdash", "—", "lsquo", "‘", "rsquo", "’", "sbquo", "‚", "ldquo", "“",
      "rdquo", "”", "bdquo", "„", "dagger", "†", "Dagger", "‡", "bull", "•", "hellip", "…",
      "permil", "‰", "prime", "′", "Prime", "″", "lsaquo", "‹", "rsaquo", "›", "euro", "€", "trade",
      "™", "larr", "←", "uarr", "↑", "rarr", "→", "darr", "↓", "harr", "↔", "minus", "−", "infin",
      "∞", "asymp", "≈", "ne", "≠", "le", "≤", "ge", "≥", "female", "♀", "male", "♂"
    };
    for (int i = 0; i < others.length; i += 2) {
      named.put(others[i], others[i + 1]);
    }
    named.remove("-");
    return Map.copyOf(named);
  }
}
