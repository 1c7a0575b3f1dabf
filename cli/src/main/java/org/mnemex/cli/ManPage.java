package org.mnemex.cli;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import picocli.CommandLine.Help;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Model.ArgSpec;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Model.OptionSpec;
import picocli.CommandLine.Model.PositionalParamSpec;

/** The manual page of a command, in the macros of man(7). */
final class ManPage {
  private static final String SECTION = "1";

  private final CommandSpec command;
  private final StringBuilder out = new StringBuilder();

  ManPage(CommandSpec command) {
    this.command = command;
  }

  /** Its name, such as {@code mnemex-search}. */
  String name() {
    return command.qualifiedName("-");
  }

  /** The page. */
  String text() {
    out.setLength(0);
    line(".TH \"%s\" %s \"\" \"Mnemex\"".formatted(name().toUpperCase(Locale.ROOT), SECTION));
    section("NAME");
    line(escaped(name()) + " \\- " + escaped(summary(command)));
    section("SYNOPSIS");
    // Options are neither spread over the line nor divided.
    line(".ad l");
    line(".nh");
    line(escaped(synopsis()));
    line(".hy");
    line(".ad b");
    section("DESCRIPTION");
    for (String paragraph : command.usageMessage().description()) {
      line(".PP");
      line(escaped(plain(paragraph)));
    }
    entries("ARGUMENTS", command.positionalParameters());
    entries("OPTIONS", command.options());
    commands();
    notes();
    seeAlso();
    return out.toString();
  }

  private void section(String title) {
    line(".SH " + title);
  }

  private void line(String text) {
    out.append(text).append('\n');
  }

  private static String summary(CommandSpec command) {
    String first = plain(String.join(" ", command.usageMessage().description()));
    int end = first.indexOf(". ");
    return (end < 0 ? first : first.substring(0, end)).replaceAll("\\.$", "");
  }

  private String synopsis() {
    Help help = new Help(command, Help.defaultColorScheme(Ansi.OFF));
    return help.synopsis(0).strip().replaceAll("\\s+", " ");
  }

  private void entries(String title, List<? extends ArgSpec> all) {
    List<? extends ArgSpec> shown = all.stream().filter(one -> !one.hidden()).toList();
    if (shown.isEmpty()) {
      return;
    }
    section(title);
    for (ArgSpec one : shown) {
      line(".TP");
      line("\\fB" + escaped(label(one)) + "\\fR");
      line(escaped(plain(String.join(" ", one.renderedDescription()))));
    }
  }

  private static String label(ArgSpec one) {
    return switch (one) {
      case OptionSpec option ->
          String.join(", ", option.names())
              + (option.arity().max() == 0 ? "" : " " + option.paramLabel());
      case PositionalParamSpec positional -> positional.paramLabel();
      default -> one.paramLabel();
    };
  }

  private void commands() {
    List<CommandSpec> shown =
        command.subcommands().values().stream()
            .map(sub -> sub.getCommandSpec())
            .distinct()
            .filter(sub -> !sub.usageMessage().hidden())
            .toList();
    if (shown.isEmpty()) {
      return;
    }
    section("COMMANDS");
    for (CommandSpec sub : shown) {
      line(".TP");
      line("\\fB" + escaped(sub.qualifiedName("-")) + "\\fR(" + SECTION + ")");
      line(escaped(summary(sub)));
    }
  }

  private void notes() {
    String text =
        Arrays.stream(command.usageMessage().footer())
            .map(ManPage::plain)
            .collect(Collectors.joining("\n"))
            .strip();
    if (text.isEmpty()) {
      return;
    }
    section("NOTES");
    // As it is, with its line ends: examples stand below each other.
    line(".nf");
    text.lines().map(ManPage::escaped).forEach(this::line);
    line(".fi");
  }

  private void seeAlso() {
    if (command.parent() != null) {
      section("SEE ALSO");
      line("\\fB" + escaped(command.parent().qualifiedName("-")) + "\\fR(" + SECTION + ")");
    }
  }

  /** Without picocli's markup and escapes. */
  private static String plain(String text) {
    return Ansi.OFF.string(text.replace("%%", "%").replace("%n", "\n"));
  }

  /** What the macros would take for a command or a hyphen is a plain character (man(7)). */
  private static String escaped(String text) {
    String safe = text.replace("\\", "\\e").replace("-", "\\-");
    return safe.startsWith(".") || safe.startsWith("'") ? "\\&" + safe : safe;
  }
}
