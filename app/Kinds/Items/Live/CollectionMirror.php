<?php

declare(strict_types=1);

namespace App\Kinds\Items\Live;

use App\Kinds\Items\Server\MailServer;
use Kaiseki\Core\Mail\Dav\DavCollection;
use Kaiseki\Core\Mail\Dav\DavHome;

/**
 * The calendars and contacts of a mailbox as files, one for each object; what has the etag that it had is not read again. Where the
 * server keeps an account of what changed, only that is asked for, but for a full: then it is believed nothing.
 */
final readonly class CollectionMirror
{
    private const AT_ONCE = 100;

    /** Beside the paths, which begin with a slash. */
    private const TOKEN = 'sync-token';

    public function __construct(private Mirror $mirror, private MailServer $server, private string $mailbox)
    {
    }

    public function bringUpToDate(): void
    {
        $home = $this->server->openDav($this->mailbox);
        $root = MirrorPath::collections($this->mailbox);
        $kept = [];
        foreach ($home->collections() as $collection) {
            $name = $collection->name();
            if (! MirrorPath::isPart($name)) {
                $this->mirror->remark("The calendar or book $name of {$this->mailbox} is not in it: no path can be called so.");
            } else {
                $kept[] = $name;
                $this->collection($home, $collection, "$root/$name");
            }
        }
        foreach (array_diff($this->mirror->names($root), $kept) as $gone) {
            $this->mirror->remove("$root/$gone");
        }
    }

    private function collection(DavHome $home, DavCollection $of, string $path): void
    {
        $this->mirror->folder($path);
        $state = $this->mirror->kept($path); // path => etag, and the name of the file
        $before = is_string($state[self::TOKEN] ?? null) ? $state[self::TOKEN] : '';
        unset($state[self::TOKEN]);
        [$there, $token] = $this->there($home, $of, $before, array_map(fn (array $one): string => (string) $one[0], $state));
        $known = [];
        foreach ($there as $href => $etag) {
            if ($etag !== '' && ($state[$href][0] ?? null) === $etag && $this->mirror->has("$path/{$state[$href][1]}")) {
                $known[$href] = $state[$href];
            }
        }
        foreach (array_chunk(array_keys(array_diff_key($there, $known)), self::AT_ONCE) as $some) {
            foreach ($home->read($of, array_map(strval(...), $some)) as $entry) {
                $file = MirrorPath::file(rawurldecode(basename($entry->href)), $of->holds->ending());
                $this->mirror->write("$path/$file", $entry->bytes);
                $known[$entry->href] = [$entry->etag, $file];
                $this->mirror->read++;
            }
        }
        $files = array_column($known, 1);
        foreach (array_diff($this->mirror->names($path), $files) as $gone) {
            $this->mirror->remove("$path/$gone");
        }
        // What was told as there and was not given is asked for anew the next time, not only when it changes again.
        $isAll = array_diff_key($there, $known) === [];
        $this->mirror->keep($path, $known + ($token === '' || ! $isAll ? [] : [self::TOKEN => $token]));
    }

    /**
     * @param  string  $token  '' where the server gave none
     * @param  array<string, string>  $before  path => etag, when it gave it
     * @return array{array<string, string>, string} all that is there, path => etag, and the token to ask by the next time
     */
    private function there(DavHome $home, DavCollection $of, string $token, array $before): array
    {
        $isKnown = $token !== '' && ! $this->mirror->looksAtAll;
        $since = $isKnown ? $home->changes($of, $token) : null;
        if ($since !== null) {
            return [$since->after($before), $since->token];
        }
        if ($isKnown) {
            $this->mirror->remark(
                "The server has no account any more of what changed in {$of->name()} of {$this->mailbox}: all of it was looked through.",
            );
        }
        $all = $home->changes($of, '');

        return $all === null ? [$home->etags($of), ''] : [$all->there, $all->token];
    }
}
