<?php

declare(strict_types=1);

namespace Tests\Support;

use RuntimeException;
use Symfony\Component\Finder\Finder;

/** Which rooms of app/ use which, read from its files; and what docs/architecture.md says of that. */
final class Rooms
{
    /**
     * Named by whoever needs them: the border itself, whose interfaces name what the rooms hold; the messages of the queue, which are
     * known to who sends them and who carries them out; and the few classes that lie in no room.
     */
    public const EVERYWHERE = ['Kinds', 'Jobs', ''];

    /** @return array<string, array<string, list<string>>> room => room that it uses => files */
    public static function uses(): array
    {
        $uses = [];
        foreach (self::files('app', '*.php') as $path => $text) {
            $room = self::room('App\\'.strtr(substr($path, 4, -4), '/', '\\'));
            preg_match_all('/^use (App\\\\[A-Za-z\\\\]+)|(?<![A-Za-z\\\\])\\\\(App\\\\[A-Za-z\\\\]+)/m', $text, $found);
            foreach (array_filter([...$found[1], ...$found[2]]) as $class) {
                $other = self::room($class);
                if ($other !== $room) {
                    $uses[$room][$other][] = basename($path);
                }
            }
        }

        return $uses;
    }

    private static function room(string $class): string
    {
        $parts = explode('\\', $class);

        return match (true) {
            count($parts) < 3 => '',
            $parts[1] === 'Kinds' && count($parts) > 3 => "Kinds\\{$parts[2]}",
            default => $parts[1],
        };
    }

    /**
     * @param  array<string, array<string, list<string>>>  $uses
     * @return list<string>
     */
    public static function circles(array $uses): array
    {
        $circles = [];
        foreach (array_diff(array_keys($uses), self::EVERYWHERE) as $room) {
            $reached = [];
            $open = array_keys($uses[$room]);
            while (($next = array_pop($open)) !== null) {
                if (! isset($reached[$next]) && ! in_array($next, self::EVERYWHERE, true)) {
                    $reached[$next] = true;
                    $open = [...$open, ...array_keys($uses[$next] ?? [])];
                }
            }
            if (isset($reached[$room])) {
                $circles[] = $room;
            }
        }

        return $circles;
    }

    /** @return array<string, list<string>> room => rooms that it may use, by the table in docs/architecture.md */
    public static function ofTheMap(): array
    {
        $text = (string) file_get_contents(dirname(__DIR__, 2).'/docs/architecture.md');
        preg_match_all('/^\| `app\/([A-Za-z]+)` \|[^|]*\| ([^|]*) \|$/m', $text, $rows, PREG_SET_ORDER);
        if ($rows === []) {
            throw new RuntimeException('docs/architecture.md has no table of the rooms.');
        }

        return array_column(
            array_map(fn (array $row): array => [$row[1], array_values(array_filter(array_map(trim(...), explode(',', $row[2]))))], $rows),
            1,
            0,
        );
    }

    /** @return list<string> */
    public static function namingKinds(): array
    {
        $found = [];
        $own = '/App\\\\+Kinds\\\\+[A-Z][A-Za-z]*\\\\|(?<![A-Za-z])kinds[.\/](files|database|machine)[.\/]/';
        foreach (self::shared() as $path => $text) {
            foreach (preg_split('/\R/', $text) ?: [] as $number => $line) {
                if (preg_match($own, $line) === 1) {
                    $found[] = "$path:".($number + 1);
                }
            }
        }

        return $found;
    }

    /** @return list<string> */
    public static function comparingKinds(): array
    {
        $names = implode('|', ['files', 'database', 'machine', 'items', 'cluster', 'desk']);
        $compares =
            "/kind\\b[^;]{0,40}(===|!==|==|!=)\\s*['\"]($names)['\"]|['\"]($names)['\"]\\s*(===|!==)[^;]{0,40}kind\\b".
            '|match \\([^)]*workload[^)]*kind\\)|in_array\\([^,]*kind\\b[^,]*, '.
                "\\[['\"]($names)|'kind'[^;]{0,12}(=>|,)\\s*['\"]($names)['\"]/i";
        $found = [];
        foreach (self::shared() as $path => $text) {
            foreach (preg_split('/\R/', $text) ?: [] as $number => $line) {
                if (preg_match($compares, $line) === 1) {
                    $found[] = "$path:".($number + 1).': '.trim($line);
                }
            }
        }

        return $found;
    }

    /** @return iterable<string, string> path => text, of everything that is no kind's own */
    private static function shared(): iterable
    {
        foreach ([['app', '*.php'], ['resources/views', '*.php'], ['routes', '*.php'], ['bootstrap', '*.php']] as [$folder, $names]) {
            foreach (self::files($folder, $names) as $path => $text) {
                if (preg_match('~^app/Kinds/[A-Z][A-Za-z]*/|^resources/views/kinds/~', $path) !== 1) {
                    yield $path => $text;
                }
            }
        }
    }

    /** @return iterable<string, string> path => text */
    private static function files(string $folder, string $names): iterable
    {
        $root = dirname(__DIR__, 2);
        foreach (
            (new Finder)
                ->files()
                ->in("$root/$folder")
                ->name($names)
                ->sortByName() as $file
        ) {
            yield substr($file->getPathname(), strlen($root) + 1) => $file->getContents();
        }
    }
}
