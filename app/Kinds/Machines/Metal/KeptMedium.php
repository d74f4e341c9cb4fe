<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Instance;
use App\Line\LineKey;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Symfony\Component\Filesystem\Filesystem;

/**
 * A recovery medium of no machine in particular, that can be had here: the newest of its format. It holds no secret. Beside its files lie
 * their SHA-256, signed by the key that the desk is known by.
 *
 * @property int $id
 * @property MediumFormat $format
 * @property string $state MAKING, MADE or FAILED
 * @property string $desk where it looks for this desk
 * @property list<array{file: string, bytes: int, sha256: string}>|null $files
 * @property list<string>|null $made_from
 * @property int|null $version
 * @property string|null $failure
 * @property CarbonImmutable|null $made_at
 * @property CarbonImmutable|null $updated_at
 */
final class KeptMedium extends Model
{
    public const MAKING = 'making';

    public const MADE = 'made';

    public const FAILED = 'failed';

    /** Minutes after which one that is made is taken for given up. */
    private const PATIENCE = 30;

    /** As sha256sum(1) has them, and the signature of that (Ed25519). */
    public const SUMS = 'sha256';

    public const SIGNATURE = 'sha256.sig';

    /** By what that is known. */
    public const KEY = 'desk.pem';

    protected $table = 'recovery_media';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['format' => MediumFormat::class, 'files' => 'array', 'made_from' => 'array', 'made_at' => 'immutable_datetime'];
    }

    public static function folder(): string
    {
        return Instance::folder('medium');
    }

    /** One that is about to be made; null if somebody makes it already. */
    public static function begin(MediumFormat $format, string $desk): ?self
    {
        $one = self::query()->firstOrNew(['format' => $format]);
        if ($one->isBeingMade()) {
            return null;
        }
        $one->fill(['state' => self::MAKING, 'desk' => $desk, 'failure' => null])->save();

        return $one;
    }

    /** Whether it is being made now. */
    public function isBeingMade(): bool
    {
        return $this->state === self::MAKING && $this->updated_at?->diffInMinutes(now()) < self::PATIENCE;
    }

    /** @throws CannotMakeMedium */
    public function make(): void
    {
        try {
            $medium = Medium::here();
            $files = $medium->make(self::folder(), $this->format, $this->desk);
        } catch (CannotMakeMedium $cannot) {
            $this->update(['state' => self::FAILED, 'failure' => mb_strcut(mb_scrub($cannot->getMessage()), 0, 500)]);
            throw $cannot;
        }
        $told = Medium::told(self::folder(), $files);
        $sums = implode('', array_map(fn (array $one): string => "{$one['sha256']}  {$one['file']}\n", $told));
        (new Filesystem)->dumpFile($this->beside(self::SUMS), $sums);
        (new Filesystem)->dumpFile($this->beside(self::SIGNATURE), LineKey::sign($sums));
        $this->update([
            'state' => self::MADE,
            'files' => $told,
            'made_from' => $medium->madeFrom(),
            'version' => Medium::VERSION,
            'made_at' => now(),
        ]);
    }

    private function beside(string $what): string
    {
        return self::folder()."/medium.{$this->format->value}.$what";
    }

    /** @return list<string> names of all that can be had of it */
    public function names(): array
    {
        $files = array_column($this->files ?? [], 'file');

        return $files === [] ? [] : [...$files, basename($this->beside(self::SUMS)), basename($this->beside(self::SIGNATURE))];
    }
}
