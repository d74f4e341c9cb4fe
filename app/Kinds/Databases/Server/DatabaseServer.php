<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Models\BelongsToGroups;
use App\Models\Target;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\DB;

/**
 * @property int $id
 * @property string $name
 * @property string $host
 * @property int $port
 * @property string $user
 * @property string $password
 * @property string $site
 * @property string|null $asking_user an account that can only read, by which questions are asked; null: one is made for each
 * @property string|null $asking_password
 * @property array<string, mixed>|null $facts
 * @property CarbonImmutable|null $asked_at
 */
final class DatabaseServer extends Model implements Target
{
    use BelongsToGroups;

    protected $guarded = [];

    protected $hidden = ['password', 'asking_password'];

    protected function casts(): array
    {
        return ['password' => 'encrypted', 'asking_password' => 'encrypted', 'facts' => 'array', 'asked_at' => 'immutable_datetime'];
    }

    /** Where a database lives; null if that is not known. */
    public static function of(Workload $workload): ?self
    {
        return self::query()
            ->whereIn('id', DB::table('database_originals')->where('workload_id', $workload->id)->select('server_id'))
            ->first();
    }

    /** From now on the workload is known to live here. */
    public function holds(Workload $workload): void
    {
        DB::table('database_originals')->upsert(['workload_id' => $workload->id, 'server_id' => $this->id], ['workload_id'], ['server_id']);
    }

    public static function sort(): string
    {
        return 'server';
    }

    public function whereabouts(): string
    {
        return "{$this->user}@{$this->host}:{$this->port}";
    }

    /** @return list<Workload> those that live here */
    public function originals(): array
    {
        return array_values(
            Workload::query()
                ->whereIn('id', DB::table('database_originals')->where('server_id', $this->id)->select('workload_id'))
                ->get()
                ->all(),
        );
    }
}
