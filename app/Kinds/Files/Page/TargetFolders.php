<?php

declare(strict_types=1);

namespace App\Kinds\Files\Page;

use App\Hosts\Hosts;
use App\Kinds\Files\Order\FilesSaid;
use App\Models\Host;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\User;
use App\Rights\PersonRights;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\UnableToRestore;

/** The folders of a target, to choose one of: of the workload's own host, or of another. */
final class TargetFolders
{
    private const MOST = 200;

    public readonly ?Host $host;

    /** The folder that is looked into, below what the host gives us. */
    public readonly string $folder;

    /** @var list<string> names of the folders in it */
    public readonly array $names;

    /** Why nothing can be seen. */
    public readonly ?string $silence;

    public readonly bool $isCut;

    /** Whether somebody looks into folders, which chooses them. */
    public readonly bool $isLooking;

    private readonly FilesSaid $said;

    private readonly User $user;

    public function __construct(RecoveryRequest $request, Request $http)
    {
        $user = $http->user();
        assert($user instanceof User);
        $this->user = $user;
        $this->isLooking = $http->has('look');
        $this->said = FilesSaid::of($request);
        $host = $http->filled('host') ? Host::query()->find($http->integer('host')) : $this->said->host();
        $this->host = $host !== null && PersonRights::of($user)->may(Right::Read, $host) ? $host : null;
        try {
            $folder = EntryPath::of(
                $http->has('look') ? rawurldecode($http->string('look')->value()) : (string) $this->said->folder,
            );
        } catch (UnsafePath) {
            $folder = '';
        }
        $top = $this->host === null ? $request->workload?->source : $this->host->folder;
        $names = [];
        $silence = $top === null ? 'The original has no place that is known here.' : null;
        $this->folder = $folder;
        try {
            $look = $top === null ? null : Hosts::look($this->host, $top, $top);
            foreach ($look?->names($folder) ?? [] as $name) {
                if (
                    preg_match('/^\.(?:kaiseki-|Trash)/', $name) !== 1 &&
                    count($names) <= self::MOST &&
                    $look->status(EntryPath::join($folder, $name))?->type === Status::FOLDER
                ) {
                    $names[] = $name;
                }
            }
        } catch (UnableToRestore $unable) {
            $silence = $unable->getMessage();
        }
        sort($names, SORT_STRING);
        $this->isCut = count($names) > self::MOST;
        $this->names = array_slice($names, 0, self::MOST);
        $this->silence = $silence;
    }

    /** Which of Destination::KINDS is chosen. */
    public function destination(): string
    {
        return match (true) {
            ! $this->isLooking => $this->said->destination,
            $this->host === null => 'folder',
            default => 'host',
        };
    }

    /** @return Collection<int, Host> */
    public function hosts(): Collection
    {
        $reach = PersonRights::of($this->user);

        return Host::query()->orderBy('name')->get()->filter(fn (Host $host): bool => $reach->may(Right::Write, $host));
    }

    /** What leads into a folder: a part of an address. */
    public function query(string $folder): string
    {
        return '&look='.rawurlencode(rawurlencode($folder)).($this->host === null ? '' : "&host={$this->host->id}");
    }

    public function above(): ?string
    {
        return $this->folder === '' ? null : EntryPath::split($this->folder)[0];
    }
}
