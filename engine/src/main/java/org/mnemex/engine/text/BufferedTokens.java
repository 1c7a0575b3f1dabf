package org.mnemex.engine.text;

import java.util.ArrayList;
import java.util.List;

/** Tokens that wait for what comes after them. */
final class BufferedTokens {
  private final List<Token> tokens = new ArrayList<>();
  private final List<Token> spare = new ArrayList<>();

  void add(Token token) {
    Token copy = spare.isEmpty() ? new Token() : spare.removeLast();
    copy.copyOf(token);
    tokens.add(copy);
  }

  int size() {
    return tokens.size();
  }

  Token get(int at) {
    return tokens.get(at);
  }

  /** Takes the first ones away. */
  void drop(int count) {
    for (int i = 0; i < count; i++) {
      spare.add(tokens.removeFirst());
    }
  }
}
