<?php

declare(strict_types=1);

namespace Tests\Support;

use App\Instance;
use Symfony\Component\Process\Process;

/** The scanner of this home, fetched if it is not there, and lists of its own. */
final class ScannerHere
{
    public static function fetch(): void
    {
        (new Process([dirname(__DIR__, 2).'/bin/scanner-packages', Instance::path('scanner')]))->setTimeout(null)->mustRun();
        self::lists([]);
    }

    /** @param  array<string, string>  $lists  name => content; those of before go */
    public static function lists(array $lists): void
    {
        $folder = Instance::folder('signatures');
        array_map(unlink(...), glob("$folder/*") ?: []);
        foreach ($lists as $name => $content) {
            file_put_contents("$folder/$name", $content);
        }
    }

    /** The harmless test file that the trade agreed on; put together here, so that this file is not one. */
    public static function testFile(): string
    {
        return 'X5O!P%@AP[4\PZX54(P^)7CC)7}$EICAR-STANDARD-'.'ANTIVIRUS-TEST-FILE!$H+H*';
    }
}
