package org.mnemex.grammar;

import org.snakeyaml.engine.v2.nodes.Node;

/**
 * A definition before its content is read.
 *
 * @param file the name of its file, for messages
 * @param text the YAML as it was written
 * @param node the same, parsed, with the places of everything in it
 */
public record DefinitionPart(
    String file, DefinitionKind kind, String name, String text, Node node) {
  /** The line where it begins, from 1. */
  public int line() {
    return node.getStartMark().orElseThrow().getLine() + 1;
  }
}
