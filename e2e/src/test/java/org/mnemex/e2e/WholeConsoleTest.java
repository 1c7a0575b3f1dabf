package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.junit.jupiter.api.io.TempDir;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.TimeoutException;
import org.openqa.selenium.interactions.Actions;

/** The console from the first start to fifty indexes, by the keyboard alone where people work. */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class WholeConsoleTest {
  private static final int MAX_TABS = 200;
  private static final int INDEXES = 50;
  private static final List<String> PAGES =
      List.of(
          "/",
          "/console/sources",
          "/console/jobs",
          "/console/nodes",
          "/console/access",
          "/console/indexes",
          "/console/analysers",
          "/console/editions",
          "/console/sync",
          "/console/endpoints",
          "/console/search",
          "/console/insights");

  @TempDir private static Path folder;
  private static RunningService service;
  private static Browser browser;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 400);
    service = RunningService.start(folder);
    browser = Browser.start(folder.resolve("browser"));
  }

  @AfterAll
  static void stop() {
    if (browser != null) {
      browser.close();
    }
    service.close();
  }

  @AfterEach
  void noErrorsInTheBrowsersLog() {
    assertThat(browser.errors()).isEmpty();
  }

  @Test
  @Order(1)
  void withoutAnyIndexEachPageSaysWhatComesFirst() throws Exception {
    eachPageFits("dark", 390);
  }

  /** The steps of the job, from a database to what is learned from searches. */
  @Test
  @Order(2)
  void theWholeJobIsDoneByKeyboard() {
    browser.size(1280, 800);
    browser.open(service.url + "/");
    browser.awaitText("From a database to a search page");
    // Connect.
    press("Sources", Keys.ENTER);
    press("PostgreSQL", Keys.ARROW_DOWN);
    press("MariaDB", Keys.ARROW_DOWN);
    press("Name of the source", "garden");
    press("File, from the service's folder", "mnemex-data/garden.db");
    press("Mnemex may create", Keys.SPACE);
    press("Write the definition", Keys.ENTER);
    press("Show the plan", Keys.ENTER);
    press("Apply this plan", Keys.ENTER);
    browser.awaitText("Source garden", "accession_person");
    // Choose what to index, and build it.
    press("Propose an index", Keys.ENTER);
    browser.awaitText("index: accession");
    press("Show the plan", Keys.ENTER);
    press("Apply this plan", Keys.ENTER);
    press("See how index accession", Keys.ENTER);
    browser.awaitText("accession follows garden", "Up to date with its database.");
    // Keep in step, and prove it.
    press("Audit now", Keys.ENTER);
    browser.awaitText("records agree");
    // The shape of a record, and its analysers.
    press("Record", Keys.ENTER);
    browser.awaitText("Tables of a record", "From row to terms", "accession_no");
    press("Analysers", Keys.ENTER);
    press("Text to analyse", Keys.chord(Keys.CONTROL, "a"), "Running ferns");
    browser.awaitText("stem: english");
    // Search, from anywhere.
    type(Keys.chord(Keys.CONTROL, "k"));
    type("search accession");
    browser.awaitText("Search for “search accession”");
    type(Keys.ENTER);
    browser.awaitAddress(address -> address.contains("/console/search?index=accession"));
    press("Words to search for", "fern");
    browser.awaitAddress(address -> address.contains("q=fern"));
    browser.awaitText("results");
    // Publish.
    press("Endpoints", Keys.ENTER);
    browser.awaitText("Endpoint accession-search", "Use it");
    // Change.
    press("Editions", Keys.ENTER);
    press(
        "Definition of index accession",
        Keys.chord(Keys.CONTROL, Keys.END),
        "  code: {from: bed.code, type: exact}\n");
    press("Show the plan", Keys.ENTER);
    press("Apply this plan", Keys.ENTER);
    browser.awaitText("Promote edition 2");
    press("Promote edition 2", Keys.ENTER);
    browser.awaitText("Roll back to edition 1");
    press("Roll back to edition 1", Keys.ENTER);
    browser.awaitText("Roll back to edition 2");
    // Learn.
    press("Insights", Keys.ENTER);
    browser.awaitText("Searches of accession-search");
    press("Overview", Keys.ENTER);
    browser.awaitText("All indexes are up to date.");
    assertThat(browser.driver().findElement(By.tagName("body")).getText())
        .doesNotContain("From a database to a search page");
  }

  @Test
  @Order(3)
  void fiftyIndexesAreListedFoundAndOpened() throws Exception {
    StringBuilder shed = new StringBuilder("source: shed\nkind: push\n");
    int wanted = INDEXES - service.client.indexes().size();
    for (int i = 1; i <= wanted; i++) {
      shed.append(
          """
          ---
          index: shelf-%02d
          source: shed
          record: {key: [id]}
          fields: {name: {from: name, type: text}}
          ---
          endpoint: shelf-%02d-search
          index: shelf-%02d
          search: {name: 1}
          show: [name]
          """
              .formatted(i, i, i));
    }
    service.client.apply(Map.of("shed.yaml", shed.toString()));
    service.awaitLive("shelf-%02d".formatted(wanted));
    browser.size(1280, 800);
    browser.open(service.url + "/");
    browser.awaitText("50 indexes", "Up to date 50", "shelf-49");
    press("Part of an index's name", "shelf-4");
    browser.awaitText("10 of 50 indexes");
    press("shelf-44", Keys.ENTER);
    browser.awaitText("from shed, definition version 1");
    type(Keys.chord(Keys.CONTROL, "k"));
    type("sync 31");
    browser.awaitText("shelf-31");
    type(Keys.ENTER);
    browser.awaitText("shelf-31 follows shed");
    // What is chosen stays chosen.
    press("Endpoints", Keys.ENTER);
    browser.awaitText("Endpoint shelf-31-search");
    browser.open(service.url + "/");
    browser.awaitText("50 indexes");
    browser.passesAxe();
    eachPageFits("dark", 390);
  }

  /** No page fails axe or is wider than the window. */
  private static void eachPageFits(String colours, int width) throws Exception {
    browser.size(width, 800);
    browser.prefers(colours, "en");
    for (String page : PAGES) {
      browser.open(service.url + page);
      browser.await(driver -> !driver.findElements(By.cssSelector("main h1")).isEmpty());
      browser.passesAxe();
    }
  }

  /** Goes on with Tab until what is called so has the focus, then presses the keys. */
  private static void press(String name, CharSequence... keys) {
    try {
      browser.await(driver -> reach(name));
    } catch (TimeoutException e) {
      throw new AssertionError("Tab does not get to '" + name + "'", e);
    }
    type(keys);
  }

  private static void type(CharSequence... keys) {
    browser.driver().switchTo().activeElement().sendKeys(keys);
  }

  private static boolean reach(String name) {
    for (int i = 0; i < MAX_TABS; i++) {
      if (String.valueOf(
              browser
                  .driver()
                  .executeScript(
                      "const at = document.activeElement;"
                          + "return at === document.body ? '' : (at.getAttribute('aria-label')"
                          + " ?? at.labels?.[0]?.innerText ?? at.innerText ?? '').trim();"))
          .startsWith(name)) {
        return true;
      }
      new Actions(browser.driver()).sendKeys(Keys.TAB).perform();
    }
    return false;
  }
}
