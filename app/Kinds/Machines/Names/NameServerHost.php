<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Names;

use Illuminate\Database\Eloquent\Model;
use Kaiseki\Core\Names\DomainName;
use Kaiseki\Core\Names\NameFailure;
use Kaiseki\Core\Names\NameServer;
use Kaiseki\Core\Names\TransactionKey;

/**
 * A name server that takes changes of one zone from here.
 *
 * @property int $id
 * @property string $name
 * @property string $address
 * @property int $port
 * @property string $zone
 * @property string $key_name
 * @property string $algorithm
 * @property string $secret
 */
final class NameServerHost extends Model
{
    protected $table = 'name_servers';

    protected $guarded = [];

    protected $hidden = ['secret'];

    protected function casts(): array
    {
        return ['secret' => 'encrypted'];
    }

    /** @throws NameFailure if what is known of it is not what it should be */
    public function open(): NameServer
    {
        $key = new TransactionKey($this->algorithm, $this->key_name, $this->secret);

        return new UpdatedNameServer($this->address, $this->port, DomainName::of($this->zone), $key);
    }

    /** The one whose zone a name is in: the closest. */
    public static function for(DomainName $name): ?self
    {
        return self::query()
            ->get()
            ->filter(fn (self $server): bool => $name->isIn(DomainName::of($server->zone)))
            ->sortByDesc(fn (self $server): int => strlen($server->zone))
            ->first();
    }
}
