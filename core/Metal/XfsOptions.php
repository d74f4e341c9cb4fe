<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/**
 * How mkfs.xfs(8) makes an XFS anew with the features that it had: neither less, nor more than the kernel of its machine knows. Whatever
 * is not named here is as that program thinks best for the size.
 */
final class XfsOptions
{
    /** Behind -m. */
    public static function ofMetadata(Content $of): string
    {
        return self::said($of, ['crc', 'finobt', 'inobtcount', 'reflink', 'rmapbt', 'bigtime']);
    }

    /** Behind -i. */
    public static function ofInodes(Content $of): string
    {
        return "size={$of->inode},".self::said($of, ['sparse', 'nrext64']);
    }

    /** Behind -n. */
    public static function ofNames(Content $of): string
    {
        return self::said($of, ['ftype']);
    }

    /** @param  list<string>  $features */
    private static function said(Content $of, array $features): string
    {
        return implode(',', array_map(
            fn (string $one): string => $one.'='.(in_array($one, $of->features, true) ? '1' : '0'),
            $features,
        ));
    }
}
