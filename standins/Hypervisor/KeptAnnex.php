<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/**
 * An annex of a stand-in hypervisor: a switch (bin/annex-switch) to which cards of machines are joined and nothing else but a door for the
 * desk. The door is a QEMU process without a machine, whose network leads one port of this machine to each card, and nothing out.
 */
final readonly class KeptAnnex
{
    private const NAME = '/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D';

    private const MOST_RECORDED = 16 << 20;

    /** Seconds in which its processes must be there. */
    private const BEGINS = 20.0;

    private function __construct(private string $folder, public string $name)
    {
    }

    public static function of(string $folder, string $name): ?self
    {
        $annex = new self($folder, $name);

        return preg_match(self::NAME, $name) === 1 && is_dir($annex->kept()) ? $annex : null;
    }

    /** @return list<string> */
    public static function names(string $folder): array
    {
        return array_map(basename(...), glob("$folder/annexes/*", GLOB_ONLYDIR) ?: []);
    }

    public static function open(string $folder, string $name): self
    {
        preg_match(self::NAME, $name) === 1 || throw HypervisorFailure::because('an annex cannot be called that');
        $annex = new self($folder, $name);
        (new Filesystem)->mkdir($annex->kept(), 0700);
        $annex->begin();

        return $annex;
    }

    private function kept(): string
    {
        return "{$this->folder}/annexes/{$this->name}";
    }

    /** With which the names of its sockets begin: they have to be short. */
    private function base(): string
    {
        return "{$this->folder}/run/".substr(md5("annex {$this->name}"), 0, 8);
    }

    public function socket(): string
    {
        return "{$this->base()}.switch";
    }

    public function doorSocket(): string
    {
        return "{$this->base()}.door";
    }

    public function door(): Qmp
    {
        return Qmp::to("{$this->base()}.doorqmp");
    }

    public function recordFile(): string
    {
        return "{$this->kept()}/record.pcapng";
    }

    /** How many packets had no room in the record. */
    public function beyondFile(): string
    {
        return "{$this->kept()}/beyond";
    }

    public function cardsFile(): string
    {
        return "{$this->kept()}/cards.json";
    }

    /** @return list<AnnexCard> */
    public function cards(): array
    {
        $kept = is_file($this->cardsFile()) ? json_decode((string) file_get_contents($this->cardsFile()), true) : null;

        return array_map(AnnexCard::fromArray(...), is_array($kept) ? array_values($kept) : []);
    }

    /** From now on what comes from its socket is passed on. */
    public function admit(AnnexCard $card): void
    {
        $cards = array_filter($this->cards(), fn (AnnexCard $other): bool => $other->socket !== $card->socket);
        $kept = json_encode(array_map(fn (AnnexCard $one): array => $one->toArray(), [...array_values($cards), $card]));
        (new Filesystem)->dumpFile($this->cardsFile(), (string) $kept);
    }

    /** Its switch and its door, where they do not run; cards that are joined do not notice that they were away. */
    public function begin(): void
    {
        $lock = fopen("{$this->kept()}/lock", 'c');
        ($lock !== false && flock($lock, LOCK_EX)) || throw HypervisorFailure::because("the annex {$this->name} cannot be kept");
        try {
            $this->beginParts();
        } finally {
            flock($lock, LOCK_UN); // its processes have it too
        }
    }

    private function beginParts(): void
    {
        $this->runs('switch') || $this->start('switch', [PHP_BINARY, dirname(__DIR__, 2).'/bin/annex-switch', $this->folder, $this->name]);
        $this->runs('door') || $this->start('door', [
            QemuProcess::PROGRAM, '-M', 'none', '-nodefaults', '-no-user-config', '-display', 'none', '-monitor', 'none',
            '-sandbox', QemuProcess::SANDBOX,
            '-netdev', 'user,id=desk,restrict=on,ipv6=off',
            '-netdev', "dgram,id=inside,local.type=unix,local.path={$this->doorSocket()}".
                ",remote.type=unix,remote.path={$this->socket()}",
            '-netdev', 'hubport,id=one,hubid=0,netdev=desk',
            '-netdev', 'hubport,id=other,hubid=0,netdev=inside',
            '-qmp', "unix:{$this->base()}.doorqmp,server=on,wait=off",
            '-pidfile', "{$this->base()}.doorpid",
        ]);
    }

    /** Of its switch, or its door. */
    public function pidFile(string $part): string
    {
        return "{$this->base()}.{$part}pid";
    }

    /** The process of its switch, or its door. */
    public function runs(string $part): ?int
    {
        $pid = is_file($this->pidFile($part)) ? (int) @file_get_contents($this->pidFile($part)) : 0;
        $line = $pid > 0 ? (string) @file_get_contents("/proc/$pid/cmdline") : '';
        $isIt = $part === 'switch'
            ? str_ends_with($line, "annex-switch\0{$this->folder}\0{$this->name}\0")
            : str_contains($line, "\0{$this->pidFile($part)}\0");

        return $isIt ? $pid : null;
    }

    /** @param  list<string>  $command */
    private function start(string $part, array $command): void
    {
        $listens = $part === 'switch' ? $this->socket() : "{$this->base()}.doorqmp";
        (new Filesystem)->remove([$this->pidFile($part), $listens, "{$this->base()}.$part"]);
        $process = new Process(['setsid', ...$command], '/');
        $process->setOptions(['create_new_console' => true]); // it is not ended with this object
        $process->setTimeout(null);
        $process->start();
        for ($until = microtime(true) + self::BEGINS; $this->runs($part) === null || ! file_exists($listens); usleep(20_000)) {
            clearstatcache();
            if (! $process->isRunning() || microtime(true) > $until) {
                $said = mb_strcut(mb_scrub(trim($process->getErrorOutput())), 0, 500);
                throw HypervisorFailure::because("the $part of the annex {$this->name} did not start: $said");
            }
        }
    }

    /** One whose switch or door was killed has them again. */
    public function mend(): void
    {
        foreach (['switch', 'door'] as $part) {
            if (is_file($this->pidFile($part)) && $this->runs($part) === null) {
                $this->begin();
            }
        }
    }

    public function end(): void
    {
        foreach (['door', 'switch'] as $part) {
            $pid = $this->runs($part);
            $pid === null || posix_kill($pid, SIGTERM);
            for ($until = microtime(true) + self::BEGINS; $this->runs($part) !== null && microtime(true) < $until;) {
                usleep(20_000);
            }
            $pid = $this->runs($part);
            $pid === null || posix_kill($pid, SIGKILL);
        }
        (new Filesystem)->remove(glob("{$this->base()}.*") ?: []);
    }

    /** With its record. */
    public function close(): void
    {
        $this->end();
        (new Filesystem)->remove($this->kept());
    }

    /** What its switch keeps the record with. */
    public function mostRecorded(): int
    {
        return self::MOST_RECORDED;
    }
}
