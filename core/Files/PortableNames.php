<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Catalog\EntryPath;

/**
 * Names under which files go into an archive that somebody unpacks elsewhere: on no system does one of them lead out of the folder it is
 * unpacked in, name a device, or mean another name. The rules are those of "Naming Files, Paths, and Namespaces" (Microsoft Learn), the
 * strictest of the systems in use, and the control characters of Unicode, of which some turn the direction of a line.
 */
final class PortableNames
{
    private const DEVICES = '/^(?:CON|PRN|AUX|NUL|COM[0-9\x{B9}\x{B2}\x{B3}]|LPT[0-9\x{B9}\x{B2}\x{B3}]|CONIN\$|CONOUT\$)(?:\.|$)/iu';

    /** @var array<string, string> path as it was => as it is written */
    private array $given = [];

    /** @var array<string, true> paths as written, in lower case, of names that were changed */
    private array $taken = [];

    /** @var array<string, string> path as it is written => as it was, of those that were changed */
    private array $changed = [];

    /** The name of a path in the archive; always the same for the same path. */
    public function of(string $path): string
    {
        if (isset($this->given[$path])) {
            return $this->given[$path];
        }
        [$folder, $name] = EntryPath::split($path);
        $folder = $folder === '' ? '' : $this->of($folder);
        $safe = self::name($name);
        $to = EntryPath::join($folder, $safe);
        if ($safe !== $name) {
            for ($n = 2; isset($this->taken[mb_strtolower($to)]); $n++) {
                $to = EntryPath::join($folder, RestoreOrder::marked($safe, (string) $n));
            }
        }
        if ($to !== $path) {
            $this->taken[mb_strtolower($to)] = true;
            $this->changed[$to] = $path;
        }

        return $this->given[$path] = $to;
    }

    /** @param  iterable<string>  $paths  all there are, so that no changed name takes that of another */
    public function reserve(iterable $paths): void
    {
        foreach ($paths as $path) {
            $this->taken[mb_strtolower(mb_scrub($path))] = true;
        }
    }

    public static function name(string $name): string
    {
        $text = mb_check_encoding($name, 'UTF-8') ? $name : (string) preg_replace('/[\x80-\xff]/', '_', $name);
        $text = (string) preg_replace('/[\p{Cc}\x{200E}\x{200F}\x{202A}-\x{202E}\x{2066}-\x{2069}\x{FEFF}<>:"|?*\\\\\/]/u', '_', $text);
        $text = (string) preg_replace('/[. ]+$/u', '_', $text);

        return preg_match(self::DEVICES, $text) === 1 ? "_$text" : ($text === '' ? '_' : $text);
    }

    /** @return array<string, string> path as it is written => as it was, of those that were changed */
    public function changed(): array
    {
        return $this->changed;
    }
}
