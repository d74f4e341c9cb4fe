<?php

declare(strict_types=1);

namespace App\Trees\Intake;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\RefusedFile;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\AdoptedStore;
use App\Sets\CannotRegister;
use Closure;
use InvalidArgumentException;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\ArchiveScan;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\NamePattern;
use Kaiseki\Core\Instant;

/** Registers archives that were made elsewhere, where they lie. */
final class Adoption
{
    public const DEFAULT_PATTERN = '{name}.{level}.{stamp}.tar.gz';

    /** @var list<BackupSet> */
    private array $sets = [];

    /** @var list<RefusedFile> */
    private array $refused = [];

    private function __construct(private readonly string $kind)
    {
    }

    /**
     * @param  string  $kind  of the workload, if it is not known yet
     *
     * @throws InvalidArgumentException
     */
    public static function carryOut(AdoptOrder $order, string $kind): Adopted
    {
        $adoption = new self($kind);
        $adoption->adopt(
            $order->folder,
            $order->workload,
            $order->options['pattern'] ?? null,
            $order->options['sheet'] ?? null,
            $order->site,
            $order->progress,
            max(1, (int) ($order->options['ratio'] ?? ArchiveScan::MOST_TIMES)),
        );

        return new Adopted($adoption->sets, $adoption->refused);
    }

    /**
     * @param  string  $root  absolute
     * @param  string|null  $pattern  with {name}, {level}, {stamp} and {history}
     * @param  string|null  $sheet  JSON: a list of objects with file, level, captured_at, base, history
     * @param  string  $site  where the folder is
     * @param  (Closure(string, int): void)|null  $progress  told the file in hand and the members read
     * @param  int  $mostTimes  how many times its size a gzipped archive may unpack to
     *
     * @throws InvalidArgumentException
     */
    private function adopt(
        string $root,
        string $name,
        ?string $pattern,
        ?string $sheet,
        string $site,
        ?Closure $progress,
        int $mostTimes,
    ): void {
        $candidates = $sheet !== null ? $this->fromSheet($root, $sheet) : $this->fromNames($root, $pattern);
        usort(
            $candidates,
            fn (array $a, array $b): int => [$a['at']->microseconds, $a['level']->isFull() ? 0 : 1, $a['file']] <=> [
                $b['at']->microseconds,
                $b['level']->isFull() ? 0 : 1,
                $b['file'],
            ],
        );
        if ($candidates === []) {
            return;
        }
        $isNew = ! Workload::query()->where('name', $name)->exists();
        $workload = Workload::query()->firstOrCreate(['name' => $name], ['kind' => $this->kind]);
        $store = AdoptedStore::of($root, $name, $site);
        $registration = new SetRegistration($workload, $store);
        foreach ($candidates as $candidate) {
            try {
                $this->sets[] = $registration->add(
                    new FoundSet(
                        $candidate['file'],
                        self::setName($candidate['file']),
                        $candidate['level'],
                        $candidate['at'],
                        $candidate['base'],
                        $candidate['history'],
                    ),
                    $progress === null ? null : fn (int $members) => $progress($candidate['file'], $members),
                    $mostTimes,
                );
            } catch (UnreadableArchive $unreadable) {
                $this->refuse($candidate['file'], 'it '.$unreadable->getMessage());
            } catch (CannotRegister $cannot) {
                $this->refuse($candidate['file'], $cannot->getMessage());
            }
        }
        if ($this->sets === [] && $isNew) {
            AdoptedStore::undo($workload, $store);
        }
    }

    public static function setName(string $file): string
    {
        return preg_replace('/\.tar(\.gz)?$|\.tgz$/', '', basename($file)) ?? $file;
    }

    /** @return list<array{file: string, level: Level, at: Instant, base: string|null, history: string}> */
    private function fromNames(string $root, ?string $pattern): array
    {
        $patterns = $pattern === null ? [self::DEFAULT_PATTERN, substr(self::DEFAULT_PATTERN, 0, -3)] : [$pattern];
        $expressions = array_map(fn (string $one): NamePattern => new NamePattern($one), $patterns);
        $files = scandir($root) ?: [];
        $candidates = [];
        foreach ($files as $file) {
            if (! is_file("$root/$file") || preg_match('/\.(manifest\.jsonl|set\.json|b2sum|partial)$/', $file) === 1) {
                continue;
            }
            foreach ($expressions as $expression) {
                $m = $expression->fields($file);
                if ($m !== null) {
                    try {
                        $beside = $this->besideIt($root, $file);
                        $candidates[] = [
                            'file' => $file,
                            'level' => Level::of($beside['level'] ?? ($m['level'] ?? 'full')),
                            'at' => isset($beside['captured_at'])
                                ? Instant::parse((string) $beside['captured_at'])
                                : NamePattern::moment($m['stamp'] ?? null, "$root/$file"),
                            'base' => isset($beside['base']) ? (string) $beside['base'] : null,
                            'history' => self::history($beside['history'] ?? ($m['history'] ?? null)),
                        ];
                    } catch (InvalidArgumentException $invalid) {
                        $this->refuse($file, lcfirst($invalid->getMessage()));
                    }

                    continue 2;
                }
            }
            $this->refuse($file, 'its name does not fit the pattern '.implode(' or ', $patterns));
        }

        return $candidates;
    }

    /**
     * What Kaiseki itself recorded beside a set it made.
     *
     * @return array<mixed>
     */
    private function besideIt(string $root, string $file): array
    {
        $path = "$root/".self::setName($file).'.set.json';
        $record = is_file($path) ? json_decode((string) file_get_contents($path), true) : null;

        return is_array($record) ? $record : [];
    }

    /** @throws InvalidArgumentException */
    private static function history(mixed $name): string
    {
        if ($name === null) {
            return '1';
        }
        if ((! is_string($name) && ! is_int($name)) || preg_match('/^[A-Za-z0-9._-]{1,60}$/D', (string) $name) !== 1) {
            throw new InvalidArgumentException(
                'The name of a history has letters, digits, dots, dashes and underscores, and at most 60 of them.',
            );
        }

        return (string) $name;
    }

    /** @return list<array{file: string, level: Level, at: Instant, base: string|null, history: string}> */
    private function fromSheet(string $root, string $sheet): array
    {
        $list = json_decode((string) @file_get_contents($sheet), true);
        $list = is_array($list) && is_array($list['sets'] ?? null) ? $list['sets'] : $list;
        if (! is_array($list) || ! array_is_list($list)) {
            throw new InvalidArgumentException("The sheet \"$sheet\" is not a JSON list of sets.");
        }
        $candidates = [];
        foreach ($list as $entry) {
            $file = is_array($entry) && is_string($entry['file'] ?? null) ? $entry['file'] : '?';
            $path = realpath("$root/$file");
            if ($path === false || ! is_file($path) || ! str_starts_with($path, "$root/")) {
                $this->refuse($file, 'there is no such file in the folder');

                continue;
            }
            try {
                $base = $entry['base'] ?? null;
                $candidates[] = [
                    'file' => substr($path, strlen($root) + 1),
                    'level' => Level::of(is_int($entry['level'] ?? null) ? $entry['level'] : (string) ($entry['level'] ?? '')),
                    'at' => Instant::parse((string) ($entry['captured_at'] ?? '')),
                    'base' => $base === null ? null : self::setName((string) $base),
                    'history' => self::history($entry['history'] ?? null),
                ];
            } catch (InvalidArgumentException $invalid) {
                $this->refuse($file, lcfirst($invalid->getMessage()));
            }
        }

        return $candidates;
    }

    private function refuse(string $file, string $because): void
    {
        $this->refused[] = new RefusedFile($file, $because);
    }
}
