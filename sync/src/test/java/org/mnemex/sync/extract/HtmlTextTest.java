package org.mnemex.sync.extract;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.jsoup.Jsoup;

class HtmlTextTest {
  @Property(tries = 2000)
  void aFragmentHasTheTextOfADocumentAroundIt(@ForAll("pieces") List<String> pieces) {
    String html = String.join("", pieces);
    assertThat(HtmlText.ofFragment(html)).isEqualTo(HtmlText.of(Jsoup.parseBodyFragment(html)));
  }

  @Provide
  Arbitrary<List<String>> pieces() {
    return Arbitraries.of(
            "<p>",
            "</p>",
            "<b>",
            "</b>",
            "a fern",
            "&amp;",
            "&",
            "<",
            "<br>",
            "<table>",
            "<td>",
            "</td>",
            "<script>x<y</script>",
            "<title>t</title>",
            "<!-- c -->",
            "<li>",
            "</div>",
            "<body>",
            "</body>",
            "<html>",
            "<head>",
            "<select><option>o",
            "<template>",
            "</template>",
            "<svg>",
            "<form>",
            "<frameset>",
            "<textarea>",
            "<noscript>",
            "</p")
        .list()
        .ofMaxSize(12);
  }
}
