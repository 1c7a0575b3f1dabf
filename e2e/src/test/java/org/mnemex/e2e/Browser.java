package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.logging.Level;
import org.openqa.selenium.By;
import org.openqa.selenium.ElementClickInterceptedException;
import org.openqa.selenium.StaleElementReferenceException;
import org.openqa.selenium.TimeoutException;
import org.openqa.selenium.WebDriver;
import org.openqa.selenium.chrome.ChromeDriver;
import org.openqa.selenium.chrome.ChromeDriverService;
import org.openqa.selenium.chrome.ChromeOptions;
import org.openqa.selenium.logging.LogEntry;
import org.openqa.selenium.logging.LogType;
import org.openqa.selenium.logging.LoggingPreferences;
import org.openqa.selenium.support.ui.WebDriverWait;

/** A headless browser of 1280 by 800. */
record Browser(ChromeDriver driver) implements AutoCloseable {
  /**
   * Starts it.
   *
   * @param profile an empty folder, or one that does not exist
   */
  static Browser start(Path profile) {
    ChromeOptions options = new ChromeOptions();
    options.setBinary("/usr/bin/chromium");
    options.addArguments(
        "--headless=new",
        "--no-sandbox",
        "--disable-dev-shm-usage",
        "--disable-gpu",
        "--window-size=1280,800",
        "--hide-scrollbars",
        "--user-data-dir=" + profile,
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync");
    LoggingPreferences logging = new LoggingPreferences();
    logging.enable(LogType.BROWSER, Level.ALL);
    options.setCapability("goog:loggingPrefs", logging);
    return new Browser(
        new ChromeDriver(
            new ChromeDriverService.Builder()
                .usingDriverExecutable(Path.of("/usr/bin/chromedriver").toFile())
                .usingAnyFreePort()
                .build(),
            options));
  }

  /** What pages complained of since this was asked last. */
  List<String> errors() {
    return driver.manage().logs().get(LogType.BROWSER).getAll().stream()
        .filter(entry -> entry.getLevel().intValue() >= Level.SEVERE.intValue())
        .map(LogEntry::getMessage)
        .toList();
  }

  /** Goes to an address. */
  void open(String address) {
    driver.get(address);
  }

  /**
   * Waits until {@code question} has an answer that is neither null nor false. The page may be
   * drawn anew while it is asked.
   */
  <T> T await(Function<WebDriver, T> question) {
    return new WebDriverWait(driver, Duration.ofMinutes(3))
        .ignoring(StaleElementReferenceException.class, ElementClickInterceptedException.class)
        .until(question);
  }

  /** Waits until the page's text has all of the parts. */
  void awaitText(String... parts) {
    try {
      await(page -> List.of(parts).stream().allMatch(text()::contains));
    } catch (TimeoutException e) {
      throw new AssertionError("%s is not in:%n%s".formatted(List.of(parts), text()), e);
    }
  }

  private String text() {
    return driver.findElement(By.tagName("body")).getText();
  }

  /** Clicks as soon as the element can be clicked. */
  void click(By element) {
    await(
        page -> {
          page.findElement(element).click();
          return true;
        });
  }

  /** Waits until the address is as wanted. */
  void awaitAddress(Predicate<String> wanted) {
    await(page -> wanted.test(String.valueOf(page.getCurrentUrl())));
  }

  /** Fails if axe finds something on the page, or something is wider than the page. */
  void passesAxe() throws Exception {
    String axe =
        Files.readString(RunningService.root().resolve("console/node_modules/axe-core/axe.min.js"));
    driver.executeScript(axe);
    Object violations =
        driver.executeAsyncScript(
            "const done = arguments[0];"
                + "axe.run().then(r => done(r.violations.map("
                + "v => v.id + ' ' + v.nodes.map(n => n.html).join(' | '))));");
    assertThat((List<?>) violations).isEmpty();
    Object tooWide =
        driver.executeScript(
            "return [...document.querySelectorAll('body *')].filter(e =>"
                + " e.getBoundingClientRect().right > document.documentElement.clientWidth + 1"
                + " && !e.closest('svg, .cm-editor, [class*=overflow]')).map(e => e.outerHTML.slice(0, 200))");
    assertThat((List<?>) tooWide).isEmpty();
  }

  /** Makes the page another size, in CSS pixels. */
  void size(int width, int height) {
    driver.executeCdpCommand(
        "Emulation.setDeviceMetricsOverride",
        Map.of("width", width, "height", height, "deviceScaleFactor", 1, "mobile", false));
  }

  /**
   * Prefers colours and a language.
   *
   * @param colours light or dark
   * @param language a BCP 47 tag
   */
  void prefers(String colours, String language) {
    driver.executeCdpCommand(
        "Emulation.setEmulatedMedia",
        Map.of("features", List.of(Map.of("name", "prefers-color-scheme", "value", colours))));
    driver.executeCdpCommand(
        "Emulation.setUserAgentOverride",
        Map.of("userAgent", "Mozilla/5.0 Chrome", "acceptLanguage", language));
  }

  @Override
  public void close() {
    driver.quit();
  }
}
