<?php

declare(strict_types=1);

namespace Tests;

use PHPUnit\Framework\TestCase as Base;
use Tests\Support\Browser;

/** Tests that drive the real pages of the running application in headless Chromium. */
abstract class BrowserTestCase extends Base
{
    protected function browser(): Browser
    {
        return Browser::shared();
    }

    /** A browser nobody is signed in with yet. */
    protected function freshBrowser(): Browser
    {
        return Browser::shared()->forget();
    }
}
