package org.mnemex.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.StringWriter;
import org.junit.jupiter.api.Test;

class TerminalWriterTest {
  @Test
  void controlCharactersOfDataDoNotReachTheTerminal() {
    StringWriter shown = new StringWriter();
    TerminalWriter out = new TerminalWriter(shown);
    // A title of the window, a text for the clipboard, a cursor that moves, and what hides a line.
    out.println("Fern\u001b]0;owned\u0007 \u001b]52;c;aGk=\u0007 \u001b[3A \u009b2K \rRose\b");
    out.printf("%s|%c%n", "\u001b[1mbold\u001b[0m\tand \u202eback", '\u0007');
    out.write(new char[] {'a', '\u001b', 'b'}, 0, 3);
    out.flush();
    assertThat(shown.toString().lines())
        .containsExactly(
            "Fern·]0;owned· ·]52;c;aGk=· ·[3A ·2K ·Rose·",
            "\u001b[1mbold\u001b[0m\tand ·back|·",
            "a·b");
  }
}
