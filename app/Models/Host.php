<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property string $name
 * @property string $kind folder or sftp
 * @property string $site
 * @property string $folder
 * @property string|null $address
 * @property int|null $port
 * @property string|null $user
 * @property string|null $fingerprint
 * @property CarbonImmutable|null $tested_at
 */
final class Host extends Model implements Target
{
    use BelongsToGroups;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['tested_at' => 'immutable_datetime'];
    }

    public static function sort(): string
    {
        return 'host';
    }

    public function whereabouts(): string
    {
        return $this->kind === 'sftp' ? "{$this->user}@{$this->address}:{$this->port}{$this->folder}" : $this->folder;
    }

    public function originals(): array
    {
        return array_values(
            Workload::query()
                ->whereNotNull('source')
                ->get()
                ->filter(fn (Workload $workload): bool => $this->holds((string) $workload->source))
                ->all(),
        );
    }

    /** Whether a folder of this machine lies in what may be written to of it. */
    public function holds(string $folder): bool
    {
        return $this->kind === 'folder' && self::isWithin($folder, $this->folder);
    }

    /** Whether a path is a folder, or lies in it, by their names alone. */
    public static function isWithin(string $path, string $folder): bool
    {
        return str_starts_with(rtrim($path, '/').'/', rtrim($folder, '/').'/');
    }
}
