package org.mnemex.e2e;

import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAPackage;
import static com.tngtech.archunit.core.domain.JavaClass.Predicates.resideInAnyPackage;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.library.dependencies.SliceAssignment;
import com.tngtech.archunit.library.dependencies.SliceIdentifier;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The allowed arrows between modules and rooms. */
class ArchitectureTest {
  private static final List<String> MODULES =
      List.of(
          "engine", "sync", "publish", "grammar", "garden", "service", "client", "cli", "bench");

  /** Reading them takes most of the time of these tests. */
  private static JavaClasses classes;

  @BeforeAll
  static void readClasses() {
    classes =
        new ClassFileImporter()
            // What the build adds is not written by us.
            .withImportOption(file -> !file.contains("__"))
            .importPaths(
                MODULES.stream()
                    .map(module -> RunningService.root().resolve(module + "/target/classes"))
                    .toList());
  }

  @Test
  void modulesKnowOnlyWhatTheyMay() {
    assertThat(classes.stream().filter(resideInAPackage("org.mnemex.engine.."))).isNotEmpty();
    for (String[] rule :
        new String[][] {
          {"engine", "sync", "publish", "grammar", "service", "client", "cli", "garden", "bench"},
          {"sync", "publish", "grammar", "service", "client", "cli", "garden", "bench"},
          {"publish", "engine", "sync", "grammar", "service", "client", "cli", "garden", "bench"},
          {"grammar", "engine", "sync", "publish", "service", "client", "cli", "garden", "bench"},
          {"service", "client", "cli", "garden", "bench"},
          {"client", "grammar", "engine", "sync", "publish", "service", "cli", "garden", "bench"},
          {"cli", "sync", "publish", "service", "bench"},
          {"garden", "grammar", "engine", "sync", "publish", "service", "client", "cli", "bench"},
          {"bench", "service", "cli"},
        }) {
      String[] forbidden =
          Stream.of(rule).skip(1).map(m -> "org.mnemex." + m + "..").toArray(String[]::new);
      noClasses()
          .that()
          .resideInAPackage("org.mnemex." + rule[0] + "..")
          .should()
          .dependOnClassesThat()
          .resideInAnyPackage(forbidden)
          .check(classes);
    }
  }

  @Test
  void noRoomsOfAModuleDependOnEachOtherInACircle() {
    for (String module : MODULES) {
      slices()
          .assignedFrom(roomsOf(module))
          .should()
          .beFreeOfCycles()
          .allowEmptyShould(true)
          .check(classes);
    }
  }

  private static SliceAssignment roomsOf(String module) {
    return new SliceAssignment() {
      @Override
      public SliceIdentifier getIdentifierOf(JavaClass type) {
        String room = type.getPackageName();
        return (room + ".").startsWith("org.mnemex." + module + ".")
            ? SliceIdentifier.of(room)
            : SliceIdentifier.ignore();
      }

      @Override
      public String getDescription() {
        return "the rooms of " + module;
      }
    };
  }

  @Test
  void theEngineKnowsNoOutsideWorld() {
    noClasses()
        .that()
        .resideInAPackage("org.mnemex.engine..")
        .should()
        .dependOnClassesThat(
            resideInAnyPackage(
                "java.sql..",
                "java.net..",
                "java.util.concurrent..",
                "org.springframework..",
                "tools.jackson..",
                "org.snakeyaml.."))
        .orShould()
        .dependOnClassesThat()
        .areAssignableTo(Thread.class)
        .check(classes);
    noClasses()
        .that()
        .resideInAPackage("org.mnemex.sync..")
        .should()
        .dependOnClassesThat(
            resideInAnyPackage("org.springframework..", "org.apache.ibatis..", "java.net.http.."))
        .check(classes);
  }

  @Test
  void theServiceUsesTheEngineThroughItsOpenRooms() {
    noClasses()
        .that()
        .resideInAnyPackage("org.mnemex.service..", "org.mnemex.sync..")
        .should()
        .dependOnClassesThat(
            resideInAnyPackage(
                "org.mnemex.engine.store..",
                "org.mnemex.engine.write..",
                "org.mnemex.engine.search.."))
        .check(classes);
  }

  @Test
  void onlyControllersAndTheWebRoomKnowHttp() {
    noClasses()
        .that()
        .resideInAPackage("org.mnemex.service..")
        .and()
        .resideOutsideOfPackage("org.mnemex.service.web..")
        .and()
        .haveSimpleNameNotEndingWith("Controller")
        .should()
        .dependOnClassesThat(
            resideInAnyPackage(
                "org.springframework.http..",
                "org.springframework.web..",
                "jakarta.servlet..",
                "org.mnemex.service.web.."))
        .check(classes);
  }

  @Test
  void everyRoomHasASentenceOnItsDoor() throws IOException {
    for (String module : MODULES) {
      Path sources = RunningService.root().resolve(module + "/src/main/java");
      try (Stream<Path> folders = Files.walk(sources)) {
        List<Path> silent =
            folders
                .filter(Files::isDirectory)
                .filter(ArchitectureTest::hasClasses)
                .filter(folder -> !Files.exists(folder.resolve("package-info.java")))
                .toList();
        assertThat(silent).isEmpty();
      }
    }
  }

  private static boolean hasClasses(Path folder) {
    try (Stream<Path> files = Files.list(folder)) {
      return files.anyMatch(file -> file.toString().endsWith(".java"));
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }
}
