<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Scan;

use App\Instance;
use Kaiseki\Core\Scan\ClamLink;
use Kaiseki\Core\Scan\ScannerIsSilent;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\ExecutableFinder;
use Symfony\Component\Process\Process;

/**
 * A scanner of this machine for one scan: clamd(8) of Debian with lists of our own and nothing that is fetched, its memory bounded, for
 * what it reads is from outside.
 */
final class Scanner
{
    /** Bytes of a file that is looked into. */
    public const LARGEST = 128 << 20;

    /** Seconds in which it must be there, and in which one file is looked through. */
    private const BEGINS = 60;

    public const ONE = 120;

    private const CONFINED = ['prlimit', '--as=4294967296', '--core=0', '--'];

    /** Lists that an installation adds, below its home. */
    private const OWN = 'signatures';

    private readonly string $folder;

    private ?Process $process = null;

    /** @throws ScannerIsSilent if there is none here, or it does not begin */
    public function __construct()
    {
        $this->folder = Instance::folder('tmp').'/scan-'.bin2hex(random_bytes(4));
        (new Filesystem)->mkdir(["{$this->folder}/lists", "{$this->folder}/tmp"], 0700);
        self::lists("{$this->folder}/lists");
        (new Filesystem)->dumpFile("{$this->folder}/conf", self::settings($this->folder));
        $this->begin();
    }

    public function __destruct()
    {
        $this->end();
    }

    /** @return array{string, array<string, string>}|null the program, and its environment */
    private static function program(): ?array
    {
        $unpacked = Instance::path('scanner');
        if (is_file("$unpacked/done")) {
            return ["$unpacked/usr/sbin/clamd", ['LD_LIBRARY_PATH' => "$unpacked/usr/lib/x86_64-linux-gnu"]];
        }
        $program = (new ExecutableFinder)->find('clamd', null, ['/usr/sbin']);

        return $program === null ? null : [$program, []];
    }

    public static function isThere(): bool
    {
        return self::program() !== null;
    }

    /** Those that come with this application, and those that the installation added. */
    private static function lists(string $to): void
    {
        $own = Instance::path(self::OWN);
        foreach ([...glob(resource_path('signatures').'/*.ndb') ?: [], ...glob("$own/*.{ndb,hdb,hsb}", GLOB_BRACE) ?: []] as $i => $list) {
            copy($list, "$to/$i-".basename($list));
        }
        $bad = '';
        foreach (self::digests('known-bad') as $digest => $name) {
            $bad .= "$digest:*:".preg_replace('/[^A-Za-z0-9._-]/', '_', "Known.$name").":73\n";
        }
        $bad === '' || (new Filesystem)->dumpFile("$to/known-bad.hsb", $bad);
    }

    /**
     * A list as sha256sum writes it.
     *
     * @return array<string, string> digest => name
     */
    private static function digests(string $list): array
    {
        $file = Instance::path(self::OWN."/$list");
        preg_match_all('/^([0-9a-f]{64})  (\S.{0,150})$/mi', is_file($file) ? (string) file_get_contents($file) : '', $found);

        return array_combine(array_map(strtolower(...), $found[1]), $found[2]);
    }

    /** @return array<string, string> digest => name, of what the installation holds to be harmless whatever it is found to be */
    public static function harmless(): array
    {
        return self::digests('known-harmless');
    }

    /** What it does not look into is told as a finding, which is read as that: else it would say that it is all right. */
    private static function settings(string $folder): string
    {
        $largest = self::LARGEST;
        $packed = 2 * self::LARGEST;
        $milliseconds = 1000 * intdiv(self::ONE, 2);

        return <<<CONF
            DatabaseDirectory $folder/lists
            LocalSocket $folder/s
            TemporaryDirectory $folder/tmp
            Foreground yes
            StreamMaxLength $largest
            MaxFileSize $largest
            MaxScanSize $packed
            MaxScanTime $milliseconds
            MaxRecursion 16
            AlertExceedsMax yes
            AlertEncrypted yes
            ReadTimeout 60
            IdleTimeout 300

            CONF.(posix_geteuid() === 0 ? "User root\n" : '');
    }

    private function begin(): void
    {
        [$program, $environment] = self::program() ?? throw ScannerIsSilent::because('there is none on this machine');
        $this->process = new Process([...self::CONFINED, $program, '-c', "{$this->folder}/conf"], '/', $environment);
        $this->process->setTimeout(null);
        $this->process->start();
        for ($until = microtime(true) + self::BEGINS; ! file_exists("{$this->folder}/s"); usleep(20_000)) {
            clearstatcache();
            if (! $this->process->isRunning() || microtime(true) > $until) {
                $said = mb_strcut(mb_scrub(trim($this->process->getErrorOutput().$this->process->getOutput())), -300);
                $this->end();
                throw ScannerIsSilent::because("it did not begin: $said");
            }
        }
    }

    /** A session; after one that broke, another may be had. */
    public function session(): ClamLink
    {
        if ($this->process?->isRunning() !== true) {
            (new Filesystem)->remove("{$this->folder}/s");
            $this->begin();
        }

        return ClamLink::to("{$this->folder}/s", self::ONE);
    }

    public function end(): void
    {
        $this->process?->stop(5);
        (new Filesystem)->remove($this->folder);
    }
}
