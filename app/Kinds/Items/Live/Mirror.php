<?php

declare(strict_types=1);

namespace App\Kinds\Items\Live;

use App\NamedLock;
use App\Sets\CannotRegister;
use Illuminate\Filesystem\Filesystem;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\UnableToWrite;

/**
 * What a server has of some mailboxes, as files beside the desk's own: what did not change is not read again. When it was interrupted
 * it goes on; nothing is made of it before all of it was read.
 */
final class Mirror
{
    /** Of remarks so many are kept. */
    private const MOST = 50;

    /** @var list<string> */
    private array $remarks = [];

    /** Messages and objects that were read. */
    public int $read = 0;

    private readonly string $root;

    /** @param  bool  $looksAtAll  whether everything is looked through, and nothing believed that the server says of changes */
    public function __construct(private readonly LiveMailboxes $live, public readonly bool $looksAtAll = false)
    {
        $this->root = "{$live->folder()}/tree";
    }

    public function root(): string
    {
        return $this->root;
    }

    /** @return list<string> what is to be known of it */
    public function remarks(): array
    {
        return $this->remarks;
    }

    /** @throws CannotRegister if the server does not give all of it */
    public function bringUpToDate(): void
    {
        $lock = "mirror {$this->live->workload->id}";
        if (! NamedLock::take($lock)) {
            throw CannotRegister::because('Somebody else is reading these mailboxes from their server at this moment.');
        }
        try {
            foreach ($this->live->mailboxes as $mailbox) {
                $this->live->server->imap === '' || (new MailboxMirror($this, $this->live->server, $mailbox))->bringUpToDate();
                $this->live->server->dav === '' || (new CollectionMirror($this, $this->live->server, $mailbox))->bringUpToDate();
            }
        } catch (DavFailure|ImapFailure $failure) {
            throw CannotRegister::because($failure->getMessage().' What was read is kept, and the next time goes on from there.');
        } finally {
            NamedLock::free($lock);
        }
    }

    public function remark(string $words): void
    {
        if (count($this->remarks) < self::MOST) {
            $this->remarks[] = mb_scrub($words);
        }
    }

    /** @return list<string> names in a folder; none if it is not there */
    public function names(string $path): array
    {
        $names = is_dir("{$this->root}/$path") ? scandir("{$this->root}/$path") : [];

        return array_values(array_diff($names === false ? [] : $names, ['.', '..']));
    }

    public function content(string $path): ?string
    {
        return is_file("{$this->root}/$path") ? (string) file_get_contents("{$this->root}/$path") : null;
    }

    public function has(string $path): bool
    {
        return is_file("{$this->root}/$path");
    }

    /** @return array<mixed> what was kept of a folder, beside the tree; none if nothing was */
    public function kept(string $path): array
    {
        $said = json_decode((string) @file_get_contents($this->beside($path)), true);

        return is_array($said) ? $said : [];
    }

    /** @param  array<mixed>  $what */
    public function keep(string $path, array $what): void
    {
        $file = $this->beside($path);
        file_put_contents("$file.new", json_encode($what, JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES)) !== false ||
            throw UnableToWrite::full($file);
        rename("$file.new", $file);
    }

    private function beside(string $path): string
    {
        $folder = "{$this->live->folder()}/kept";
        is_dir($folder) || mkdir($folder, 0700, true);

        return "$folder/".hash('sha256', $path).'.json';
    }

    /** @param  int|null  $time  seconds since 1970; null for now */
    public function write(string $path, string $bytes, ?int $time = null): void
    {
        $file = "{$this->root}/$path";
        $this->folder(dirname($path));
        $new = "{$this->live->folder()}/new";
        if (file_put_contents($new, $bytes) !== strlen($bytes)) {
            throw UnableToWrite::full($file, 'What is read from the server');
        }
        chmod($new, 0600);
        $time === null || touch($new, max(0, $time));
        rename($new, $file);
    }

    public function folder(string $path): void
    {
        is_dir("{$this->root}/$path") || mkdir("{$this->root}/$path", 0700, true);
    }

    public function rename(string $from, string $to): void
    {
        rename("{$this->root}/$from", "{$this->root}/$to");
    }

    public function remove(string $path): void
    {
        is_dir("{$this->root}/$path") ? (new Filesystem)->deleteDirectory("{$this->root}/$path") : @unlink("{$this->root}/$path");
    }
}
