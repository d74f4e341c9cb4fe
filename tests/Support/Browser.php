<?php

declare(strict_types=1);

namespace Tests\Support;

use App\Demo\People;
use Facebook\WebDriver\Chrome\ChromeDevToolsDriver;
use Facebook\WebDriver\Chrome\ChromeOptions;
use Facebook\WebDriver\Exception\StaleElementReferenceException;
use Facebook\WebDriver\Exception\WebDriverException;
use Facebook\WebDriver\Interactions\WebDriverActions;
use Facebook\WebDriver\Remote\DesiredCapabilities;
use Facebook\WebDriver\Remote\RemoteWebDriver;
use Facebook\WebDriver\Remote\RemoteWebElement;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverSelect;
use RuntimeException;
use Symfony\Component\Process\Process;

/** Headless Chromium on the pages of a running application. */
final class Browser
{
    /** Seconds after which it is not a slow machine any more. */
    private const PATIENCE = 120;

    /** Less than that for which a password counts. */
    private const PASSWORD_COUNTS_S = 600;

    private float $signedInAt = 0.0;

    private static ?self $shared = null;

    private ?string $signedIn = null;

    private readonly RemoteWebDriver $driver;

    private function __construct(
        private readonly Process $chromedriver,
        int $port,
        public readonly string $address,
        private readonly string $profile,
        bool $script,
    ) {
        $options = new ChromeOptions;
        $options->setBinary('/usr/bin/chromium');
        $options->addArguments([
            '--headless=new',
            '--no-sandbox',
            '--disable-dev-shm-usage',
            '--disable-gpu',
            '--window-size=1280,943',
            '--disable-quic',
            '--no-first-run',
            '--disable-background-networking',
            '--disable-component-update',
            '--disable-sync',
            "--user-data-dir=$profile",
            '--force-color-profile=srgb',
            '--hide-scrollbars',
        ]);
        if (! $script) {
            $options->setExperimentalOption('prefs', ['profile.managed_default_content_settings.javascript' => 2]);
        }
        $capabilities = DesiredCapabilities::chrome();
        $capabilities->setCapability(ChromeOptions::CAPABILITY, $options);
        $capabilities->setCapability('goog:loggingPrefs', ['browser' => 'ALL', 'performance' => 'ALL']);
        $this->driver = RemoteWebDriver::create("http://127.0.0.1:$port", $capabilities, 60_000, 120_000);
        (new ChromeDevToolsDriver($this->driver))->execute('Emulation.setDeviceMetricsOverride', [
            'width' => 1280,
            'height' => 800,
            'deviceScaleFactor' => 1,
            'mobile' => false,
        ]);
    }

    public static function start(string $address, bool $script = true): self
    {
        $process = new Process(['/usr/bin/chromedriver', '--port=0', '--allowed-ips=127.0.0.1'], null, null, null, null);
        $process->start();
        $port = 0;
        self::until(function () use ($process, &$port): bool {
            preg_match('/started successfully on port (\d+)/', $process->getOutput(), $said);
            $port = (int) ($said[1] ?? 0);

            return $port > 0;
        }, 'ChromeDriver did not start');
        $profile = sys_get_temp_dir().'/kaiseki-chromium-'.bin2hex(random_bytes(6));
        $browser = new self($process, $port, $address, $profile, $script);
        register_shutdown_function($browser->quit(...));

        return $browser;
    }

    /** One browser for all tests, on the application that bin/test started. */
    public static function shared(): self
    {
        return self::$shared ??= self::start(
            'http://127.0.0.1:'.trim((string) file_get_contents(getenv('KAISEKI_BROWSER_HOME').'/port')),
        );
    }

    public function quit(): void
    {
        if ($this->chromedriver->isRunning()) {
            try {
                $this->driver->quit();
            } catch (WebDriverException) {
                // It is gone already.
            }
            $this->chromedriver->stop(5);
            (new Process(['rm', '-rf', $this->profile]))->run();
        }
    }

    /** Nobody is signed in any more. */
    public function forget(): self
    {
        $this->visit('/health');
        $this->driver->manage()->deleteAllCookies();
        $this->signedIn = null;

        return $this;
    }

    public function signIn(string $email): self
    {
        if ($this->signedIn === $email && microtime(true) - $this->signedInAt < self::PASSWORD_COUNTS_S) {
            return $this;
        }
        $this->forget()->visit('/sign-in');
        $this->fill('#email', $email)->fill('#password', People::PASSWORD)->press("\n");
        self::until(fn (): bool => ! str_contains($this->driver->getCurrentURL(), 'sign-in'), 'Nobody was signed in');
        $this->signedIn = $email;
        $this->signedInAt = microtime(true);

        return $this;
    }

    public function visit(string $path): self
    {
        $this->driver->get($this->address.$path);

        return $this;
    }

    /** Types into whatever has the focus. */
    public function press(string $keys): self
    {
        // Not while the page is being drawn anew: the focus comes last.
        self::until(
            fn (): bool => $this->script(
                'return document.readyState === "complete" && document.querySelector(".htmx-swapping, .htmx-settling, '.
                    '.htmx-request:not(#progress)") === null',
            ) === true,
            'The page does not come to rest',
        );
        $this->driver->action()->sendKeys(null, $keys)->perform();

        return $this;
    }

    /** Waits until the element has the focus. */
    public function waitForFocus(string $selector): self
    {
        self::until(
            fn (): bool => $this->script('return document.activeElement?.matches(arguments[0]) ?? false', $selector) === true,
            "$selector does not get the focus",
        );

        return $this;
    }

    public function fill(string $selector, string $text): self
    {
        return $this->with($selector, function (RemoteWebElement $element) use ($text): void {
            $element->clear();
            $element->sendKeys($text);
        });
    }

    /** Chooses the option of a list that says this. */
    public function choose(string $selector, string $says): self
    {
        return $this->with($selector, fn (RemoteWebElement $list) => (new WebDriverSelect($list))->selectByVisiblePartialText($says));
    }

    public function click(string $selector): self
    {
        return $this->with($selector, function (RemoteWebElement $element): void {
            // In the middle of the page, as a person would have it: the bar at the foot lies over what is at the edge.
            $this->script('arguments[0].scrollIntoView({block: "center", behavior: "instant"})', $element);
            $element->click();
        });
    }

    /**
     * Does something with an element; again with the one in its place, where the page was drawn anew between finding and doing.
     *
     * @param  callable(RemoteWebElement): void  $do
     */
    private function with(string $selector, callable $do): self
    {
        for ($end = microtime(true) + self::PATIENCE; ; usleep(50_000)) {
            try {
                $do($this->element($selector));

                return $this;
            } catch (StaleElementReferenceException $stale) {
                if (microtime(true) > $end) {
                    throw $stale;
                }
            }
        }
    }

    /** Presses the mouse on a thing, so far from its middle, moves it sideways, and lets go. */
    public function drag(string $selector, int $by, int $offsetX = 0, int $offsetY = 0): self
    {
        (new WebDriverActions($this->driver))
            ->moveToElement($this->element($selector), $offsetX, $offsetY)
            ->clickAndHold()
            ->moveByOffset($by, 0)
            ->release()
            ->perform();

        return $this;
    }

    public function element(string $selector): RemoteWebElement
    {
        $this->waitFor($selector);

        return $this->driver->findElement(WebDriverBy::cssSelector($selector));
    }

    /** From now on each answer comes so much later (Chrome DevTools Protocol, Network.emulateNetworkConditions). */
    public function slowDown(int $milliseconds): self
    {
        foreach ([['Network.enable', []], ['Network.emulateNetworkConditions', [
            'offline' => false, 'latency' => $milliseconds, 'downloadThroughput' => -1, 'uploadThroughput' => -1,
        ]]] as [$cmd, $params]) {
            $this->driver->executeCustomCommand('/session/:sessionId/goog/cdp/execute', 'POST', [
                'cmd' => $cmd, 'params' => (object) $params,
            ]);
        }

        return $this;
    }

    /** Goes down the lists of a page by keyboard, as far as the one thing. */
    public function goDownTo(string $id): self
    {
        for ($rows = 0; $rows < 200 && $this->script('return document.activeElement?.id') !== $id; $rows++) {
            $this->press('j');
        }

        return $this;
    }

    public function has(string $selector): bool
    {
        return $this->driver->findElements(WebDriverBy::cssSelector($selector)) !== [];
    }

    public function waitFor(string $selector): self
    {
        self::until(fn (): bool => $this->has($selector), "There is no $selector on ".$this->driver->getCurrentURL());

        return $this;
    }

    public function waitForText(string $text): self
    {
        self::until(
            fn (): bool => str_contains($this->text(), $text),
            "\"$text\" did not appear on ".$this->driver->getCurrentURL(),
            fn (): string => $this->text(),
        );

        return $this;
    }

    public function text(): string
    {
        try {
            return $this->driver->findElement(WebDriverBy::cssSelector('body'))->getText();
        } catch (WebDriverException) {
            return ''; // between two pages
        }
    }

    public function url(): string
    {
        return substr($this->driver->getCurrentURL(), strlen($this->address));
    }

    public function script(string $script, mixed ...$arguments): mixed
    {
        return $this->driver->executeScript($script, $arguments);
    }

    public function asyncScript(string $script, mixed ...$arguments): mixed
    {
        return $this->driver->executeAsyncScript($script, $arguments);
    }

    /** @return list<string> what the page complained of since this was asked last, Content-Security-Policy included */
    public function complaints(): array
    {
        return array_values(
            array_map(
                fn (array $entry): string => $entry['message'],
                array_filter(
                    $this->driver->manage()->getLog('browser'),
                    fn (array $entry): bool => in_array($entry['level'], ['SEVERE', 'WARNING'], true),
                ),
            ),
        );
    }

    /** @return list<string> addresses that were asked for since this was asked last */
    public function requested(): array
    {
        $addresses = [];
        foreach ($this->driver->manage()->getLog('performance') as $entry) {
            $message = json_decode((string) $entry['message'], true)['message'] ?? [];
            if (($message['method'] ?? '') === 'Network.requestWillBeSent') {
                $addresses[] = (string) $message['params']['request']['url'];
            }
        }

        return $addresses;
    }

    public function shot(string $file): self
    {
        $this->driver->takeScreenshot($file);

        return $this;
    }

    private static function until(callable $condition, string $complaint, ?callable $more = null): void
    {
        for ($end = microtime(true) + self::PATIENCE; microtime(true) < $end; usleep(50_000)) {
            try {
                if ($condition()) {
                    return;
                }
            } catch (WebDriverException) {
                continue; // between two pages
            }
        }
        throw new RuntimeException($complaint.'.'.($more === null ? '' : "\n".$more()));
    }
}
