<?php

declare(strict_types=1);

namespace Tests\Support;

use Random\Engine\Mt19937;
use Random\Randomizer;

/** A folder tree that is changed at random, from a seed: the same changes on every machine. */
final class RandomTree
{
    private readonly Randomizer $random;

    private int $made = 0;

    public function __construct(public readonly string $root, int $seed)
    {
        $this->random = new Randomizer(new Mt19937($seed));
        mkdir($root, 0755, true);
        for ($i = 0; $i < 30; $i++) {
            $this->create();
        }
    }

    public function change(int $times): void
    {
        for ($i = 0; $i < $times; $i++) {
            match (
                $this->pick([
                    'create',
                    'create',
                    'overwrite',
                    'overwrite',
                    'rename',
                    'rename',
                    'delete',
                    'turn',
                    'chmod',
                    'link',
                    'move folder',
                    'move folder',
                    'swap',
                ])
            ) {
                'create' => $this->create(),
                'overwrite' => $this->overwrite(),
                'rename' => $this->rename(),
                'delete' => $this->delete(),
                'turn' => $this->turn(),
                'chmod' => $this->chmod(),
                'link' => $this->link(),
                'move folder' => $this->moveFolder(),
                default => $this->swap(),
            };
        }
    }

    private function create(): void
    {
        $folder = $this->folder();
        $path = $folder.'/'.$this->name();
        if (file_exists($path) || is_link($path)) {
            return;
        }
        switch ($this->random->getInt(0, 9)) {
            case 0:
            case 1:
            case 2:
                mkdir($path, $this->pick([0755, 0700, 0750]));
                break;
            case 3:
                symlink($this->pick(['../x', '/etc/passwd', 'nowhere', "new\nline"]), $path);
                break;
            case 4:
                $this->sparse($path);
                break;
            default:
                $this->write($path);
        }
    }

    private function write(string $path): void
    {
        file_put_contents($path, $this->random->getInt(0, 8) === 0 ? '' : $this->random->getBytes($this->random->getInt(1, 3000)));
        clearstatcache(true);
        chmod($path, $this->pick([0644, 0600, 0755, 0444]));
        touch($path, $this->random->getInt(0, 2_000_000_000));
    }

    private function sparse(string $path): void
    {
        $file = fopen($path, 'wb');
        assert($file !== false);
        for ($i = $this->random->getInt(0, 8); $i > 0; $i--) {
            fseek($file, 65536 * $this->random->getInt(0, 40));
            fwrite($file, $this->random->getBytes($this->random->getInt(1, 9000)));
        }
        ftruncate($file, 65536 * $this->random->getInt(40, 60));
        fclose($file);
    }

    private function overwrite(): void
    {
        $file = $this->any(fn (string $path): bool => is_file($path) && ! is_link($path));
        if ($file !== null) {
            $this->write($file);
        }
    }

    private function rename(): void
    {
        $file = $this->any(fn (string $path): bool => ! is_dir($path) || is_link($path));
        $to = $this->folder().'/'.$this->name();
        if ($file !== null && ! file_exists($to) && ! is_link($to)) {
            rename($file, $to);
        }
    }

    private function delete(): void
    {
        $path = $this->any(fn (): bool => true);
        if ($path !== null) {
            (new \Symfony\Component\Process\Process(['rm', '-rf', '--', $path]))->mustRun();
        }
    }

    /** A file becomes a folder, or a folder a file. */
    private function turn(): void
    {
        $path = $this->any(fn (string $path): bool => ! is_link($path));
        if ($path === null) {
            return;
        }
        $wasFolder = is_dir($path);
        (new \Symfony\Component\Process\Process(['rm', '-rf', '--', $path]))->mustRun();
        if ($wasFolder) {
            $this->write($path);
        } else {
            mkdir($path);
            clearstatcache(true); // PHP remembers for two minutes what was a file
            file_put_contents("$path/inside", 'turned '.$this->made);
        }
    }

    private function chmod(): void
    {
        $path = $this->any(fn (string $path): bool => ! is_link($path));
        if ($path !== null) {
            chmod($path, is_dir($path) ? $this->pick([0755, 0700, 0711]) : $this->pick([0644, 0640, 0400]));
        }
    }

    private function link(): void
    {
        $file = $this->any(fn (string $path): bool => is_file($path) && ! is_link($path));
        $to = $this->folder().'/'.$this->name();
        if ($file !== null && ! file_exists($to) && ! is_link($to)) {
            link($file, $to);
        }
    }

    private function moveFolder(): void
    {
        $folder = $this->any(fn (string $path): bool => is_dir($path) && ! is_link($path));
        $into = $this->folder();
        if ($folder === null || $into === $folder || str_starts_with("$into/", "$folder/")) {
            return;
        }
        $to = $into.'/'.$this->name();
        if (! file_exists($to) && ! is_link($to)) {
            rename($folder, $to);
        }
    }

    private function swap(): void
    {
        $one = $this->any(fn (string $path): bool => is_dir($path) && ! is_link($path));
        $other = $this->any(fn (string $path): bool => is_dir($path) && ! is_link($path));
        if (
            $one !== null &&
            $other !== null &&
            $one !== $other &&
            ! str_starts_with("$one/", "$other/") &&
            ! str_starts_with("$other/", "$one/")
        ) {
            rename($one, $this->root.'/.swap');
            rename($other, $one);
            rename($this->root.'/.swap', $other);
        }
    }

    private function folder(): string
    {
        return $this->random->getInt(0, 3) === 0
            ? $this->root
            : $this->any(fn (string $path): bool => is_dir($path) && ! is_link($path)) ?? $this->root;
    }

    private function name(): string
    {
        $this->made++;
        $odd = [
            "new\nline",
            "quo'te\"d",
            "\xff\xfe bad",
            'ÆØÅ ferje',
            ' space ',
            '-dash',
            "tab\there",
            'back\\slash',
            str_repeat('long', 40),
            '*glob?',
            '%41',
            'a'.str_repeat('é', 60),
        ];

        return $this->random->getInt(0, 3) === 0 ? $this->pick($odd).$this->made : 'f'.$this->random->getInt(1, 25);
    }

    /** @param  callable(string): bool  $fits */
    private function any(callable $fits): ?string
    {
        $all = [];
        $walk = function (string $folder) use (&$walk, &$all): void {
            foreach (scandir($folder) ?: [] as $name) {
                if ($name !== '.' && $name !== '..') {
                    $all[] = "$folder/$name";
                    if (is_dir("$folder/$name") && ! is_link("$folder/$name")) {
                        $walk("$folder/$name");
                    }
                }
            }
        };
        clearstatcache(true);
        $walk($this->root);
        $fitting = array_values(array_filter($all, $fits));

        return $fitting === [] ? null : $this->pick($fitting);
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $of
     * @return T
     */
    private function pick(array $of): mixed
    {
        return $of[$this->random->getInt(0, count($of) - 1)];
    }
}
