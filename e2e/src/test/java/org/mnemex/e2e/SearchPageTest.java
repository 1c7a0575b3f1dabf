package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpServer;
import com.sun.net.httpserver.SimpleFileServer;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;

/** The ready page, and the pages of the examples from another origin, in a browser. */
class SearchPageTest {
  private static final Path ROOT = RunningService.root();
  private static final String EXAMPLES = "/examples/search-page/";
  private static final By BOX = By.cssSelector("input[role=combobox]");

  @TempDir private static Path folder;
  private static RunningService service;
  private static HttpServer other;
  private static String origin;
  private static Browser browser;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 600);
    service = RunningService.start(folder);
    service.applyGarden();
    // As the README of the examples serves them: a whole checkout.
    other =
        SimpleFileServer.createFileServer(
            new InetSocketAddress(InetAddress.getLoopbackAddress(), 0),
            ROOT,
            SimpleFileServer.OutputLevel.NONE);
    Path framing = Files.createDirectories(folder.resolve("framing"));
    other.createContext("/framing/", SimpleFileServer.createFileHandler(framing));
    other.start();
    origin = "http://127.0.0.1:" + other.getAddress().getPort();
    Files.writeString(
        framing.resolve("frame.html"),
        "<!doctype html><link rel=icon href='data:,'><title>f</title><iframe title=plants width=800"
            + " height=600 src='"
            + service.url
            + "/pages/plant-search'></iframe>");
    String endpoint =
        Files.readString(ROOT.resolve("examples/garden/plant-search.yaml"))
            + "origins: [\""
            + origin
            + "\"]\n";
    service.client.apply(Map.of("plant-search.yaml", endpoint));
    browser = Browser.start(folder.resolve("browser"));
  }

  @AfterAll
  static void stop() {
    if (browser != null) {
      browser.close();
    }
    other.stop(0);
    service.close();
  }

  @AfterEach
  void noErrorsInTheBrowsersLog() {
    browser.size(1280, 800);
    browser.prefers("light", "en");
    assertThat(browser.errors()).isEmpty();
  }

  private static void open(String parameters) {
    browser.open(service.url + "/pages/plant-search" + parameters);
  }

  private static List<WebElement> all(String css) {
    return browser.driver().findElements(By.cssSelector(css));
  }

  @Test
  void theReadyPageIsUsedByKeyboard() throws Exception {
    open("");
    browser.awaitText("Plants of the garden", "results", "Family", "June");
    browser.passesAxe();
    WebElement box = browser.driver().findElement(BOX);
    box.sendKeys("rosac");
    browser.await(page -> !all("[role=option]").isEmpty());
    browser.passesAxe();
    box.sendKeys(Keys.ARROW_DOWN);
    browser.await(page -> box.getDomAttribute("aria-activedescendant") != null);
    box.sendKeys(Keys.ENTER);
    browser.awaitAddress(address -> address.endsWith("?family=Rosaceae"));
    browser.await(
        page -> !all("[data-part=chosen]").isEmpty() && !all("[data-part=result]").isEmpty());
    assertThat(all("[data-part=result]")).allMatch(one -> one.getText().contains("Rosaceae"));
    browser.driver().navigate().back();
    browser.await(page -> all("[data-part=chosen]").isEmpty());
    box.sendKeys("xylophone", Keys.ENTER);
    browser.awaitText("Nothing was found.");
  }

  @Test
  void theReadyPageFitsNarrowAndDarkScreensInOtherLanguages() throws Exception {
    browser.size(390, 844);
    browser.prefers("dark", "de-DE");
    open("?q=rosa&evergreen=true");
    browser.awaitText("Treffer", "Sortieren nach", "Filter (1)");
    browser.passesAxe();
    assertThat(browser.driver().executeScript("return document.documentElement.lang"))
        .isEqualTo("de");
    browser.prefers("light", "fr");
    open("?q=xylophone&evergreen=true");
    browser.awaitText("Aucun résultat.", "Rechercher sans filtres");
    browser.passesAxe();
    browser.click(By.cssSelector("[data-part=no-results-help] button"));
    browser.awaitAddress(address -> !address.contains("evergreen"));
  }

  @Test
  void onlyPagesOfTheEndpointsOriginsMayPost() throws Exception {
    String words = "{\"q\": \"rose\"}";
    HttpResponse<String> allowed =
        service.post(
            "/search/plant-search", words, "Origin", origin, "Sec-Fetch-Site", "same-site");
    assertThat(allowed.statusCode()).isEqualTo(200);
    assertThat(allowed.headers().firstValue("Access-Control-Allow-Origin")).hasValue(origin);
    for (String path : List.of("/search/plant-search", "/api/indexes/plants/feed/pause")) {
      String from = path.startsWith("/search") ? "http://127.0.0.1:1" : origin;
      assertThat(service.post(path, words, "Origin", from).statusCode()).isEqualTo(403);
    }
  }

  @Test
  void onlyPagesOfTheEndpointsOriginsMayFrameIt() {
    browser.open(origin + "/framing/frame.html");
    browser.driver().switchTo().frame(0);
    browser.awaitText("Plants of the garden");
    browser.driver().switchTo().defaultContent();
    // Another name of the same machine is another origin.
    browser.open(origin.replace("127.0.0.1", "localhost") + "/framing/frame.html");
    browser.driver().switchTo().frame(0);
    assertThat(browser.driver().findElement(By.tagName("body")).getText())
        .doesNotContain("Plants of the garden");
    browser.driver().switchTo().defaultContent();
    assertThat(browser.errors()).allMatch(error -> error.contains("frame-ancestors"));
  }

  @Test
  void aPlainPageOfAnotherOriginSearches() throws Exception {
    browser.open(origin + EXAMPLES + "plain.html#service=" + service.url);
    browser.awaitText("plants", "Family");
    browser.passesAxe();
    browser.driver().findElement(By.tagName("input")).sendKeys("rose");
    browser.awaitAddress(address -> address.contains("?q=rose#service"));
    browser.await(page -> !all("ol mark").isEmpty());
    browser.click(By.cssSelector("fieldset input"));
    browser.awaitAddress(address -> address.contains("family="));
  }

  @Test
  void aPageInReactSearches() throws Exception {
    browser.open(origin + EXAMPLES + "react/dist/index.html#service=" + service.url);
    browser.awaitText("results", "Family", "Height in cm");
    browser.passesAxe();
    browser.driver().findElement(By.name("from")).sendKeys("50");
    browser.driver().findElement(By.name("to")).sendKeys("120", Keys.ENTER);
    browser.awaitAddress(address -> address.contains("height=50..120"));
    browser.await(page -> !all("[data-part=chosen]").isEmpty());
    browser.driver().findElement(BOX).sendKeys("rose");
    browser.await(page -> !all("[data-part=results] mark").isEmpty());
    browser.passesAxe();
  }
}
