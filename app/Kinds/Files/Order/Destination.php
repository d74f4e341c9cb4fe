<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Instance;
use App\Models\Host;
use App\Models\RecoveryRequest;
use App\Trees\Run\Targets;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Files\UnableToRestore;

/** Where the order of a request goes. */
final readonly class Destination
{
    public const KINDS = ['new-folder', 'own-place', 'folder', 'host', 'download-zip', 'download-tar'];

    private const IN_WORDS = [
        'new-folder' => ['a new folder on the same host', 'Touches nothing.'],
        'own-place' => ['its own place', 'To where it came from, under its own names.'],
        'folder' => ['another folder of the host', 'Named below, from the top of the protected tree.'],
        'host' => ['another host', 'Tried out before anything starts.'],
        'download-zip' => ['a download, zip', 'Made while it is sent; without owners and links.'],
        'download-tar' => ['a download, tar.gz', 'With owners, modes, access lists and links.'],
    ];

    /** What happens where something stands already, as it is chosen. */
    public const CONFLICTS = [
        'beside' => [
            'put the restored one beside it',
            'It gets a dated name. A service that reads the whole folder would then read both.',
        ],
        'missing-only' => ['add only what is missing', 'What is there stays as it is.'],
        'rename-present' => ['rename what is there', 'The present one gets a dated name.'],
        'replace' => ['replace what is different', 'The present one goes to the set-aside.'],
        'replace-all' => ['replace all of it', 'Also what is the same.'],
    ];

    /**
     * @param  bool  $permissionsOnly  then only where something may stand, and what is chosen already
     * @return array<string, array{string, string}> kind => what it is, and what that means
     */
    public static function offered(bool $permissionsOnly, string $chosen): array
    {
        $isOffered = fn (string $kind): bool => ! $permissionsOnly || self::isUsed($kind) || $kind === $chosen;

        return array_filter(self::IN_WORDS, $isOffered, ARRAY_FILTER_USE_KEY);
    }

    private function __construct(
        public string $kind,
        /** The folder as the host knows it; null where it is not settled, and for a download. */
        public ?string $folder,
        public ?Host $host,
        public string $words,
        /** Why it cannot be used; null if it can. */
        public ?string $blocker,
    ) {
    }

    public static function of(RecoveryRequest $request): self
    {
        $source = $request->workload?->source;
        $said = FilesSaid::of($request);
        $named = $said->folder;

        return match ($said->destination) {
            'own-place' => self::checked('own-place', $source, null, 'its own place', 'The original has no place that is known here.'),
            'folder' => self::checked(
                'folder',
                $source === null || $named === null ? null : rtrim("$source/$named", '/'),
                null,
                $named === null ? 'a folder not named yet' : 'the folder /'.Shown::name($named),
                $source === null ? 'The original has no place that is known here.' : 'The folder is not named yet.',
            ),
            'host' => self::onHost($said->host(), $named),
            'download-zip' => new self('download-zip', null, null, 'a download (zip)', null),
            'download-tar' => new self('download-tar', null, null, 'a download (tar.gz)', null),
            default => new self('new-folder', self::newFolder($request), null, 'a new folder on the same host', null),
        };
    }

    public function isDownload(): bool
    {
        return str_starts_with($this->kind, 'download');
    }

    /** Whether it is a folder that others use too, so that something may stand there. */
    public function isInUse(): bool
    {
        return self::isUsed($this->kind);
    }

    /** @param  string  $kind  one of KINDS */
    public static function isUsed(string $kind): bool
    {
        return in_array($kind, ['own-place', 'folder', 'host'], true);
    }

    private static function onHost(?Host $host, ?string $named): self
    {
        if ($host === null || $named === null) {
            return new self(
                'host',
                null,
                $host,
                $host === null ? 'a host not named yet' : "a folder of {$host->name} not named yet",
                'The host and its folder are not named yet.',
            );
        }
        $words = 'the folder /'.Shown::name($named)." of {$host->name}";
        try {
            return new self('host', Targets::onHost($host, "/$named"), $host, $words, null);
        } catch (UnableToRestore $unfit) {
            return new self('host', null, $host, $words, $unfit->getMessage());
        }
    }

    private static function checked(string $kind, ?string $folder, ?Host $host, string $words, string $unless): self
    {
        if ($folder === null) {
            return new self($kind, null, $host, $words, $unless);
        }
        try {
            Targets::refuseUnfit($folder);
        } catch (UnableToRestore $unfit) {
            return new self($kind, $folder, $host, $words, $unfit->getMessage());
        }

        return new self($kind, $folder, $host, $words, null);
    }

    private static function newFolder(RecoveryRequest $request): string
    {
        $source = $request->workload?->source;
        $runs = $request->runs->count();

        return ($source === null ? Instance::folder('restored') : dirname($source).'/restored').
            "/request-{$request->id}".
            ($runs > 0 ? '-'.($runs + 1) : '');
    }
}
