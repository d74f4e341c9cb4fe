<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/**
 * The extended attributes of an inode of XFS (attr(5)), as far as they stand in it, or in leaves: what people set, access lists, and what
 * says how the system treats a file.
 */
final class XfsAttributes
{
    /** Of a name: that its value stands with it. */
    private const HERE = 0x1;

    /** The other flags of a name: whose it is. Those of parents, and of what is not written to its end, are nobody's. */
    private const NAMED = [0x0 => 'SCHILY.xattr.user.', 0x2 => self::TRUSTED, 0x4 => 'SCHILY.xattr.security.'];

    private const TRUSTED = 'SCHILY.xattr.trusted.';

    private const LISTS = ['SGI_ACL_FILE' => 'SCHILY.acl.access', 'SGI_ACL_DEFAULT' => 'SCHILY.acl.default'];

    /** Bytes of the fork that are looked into. */
    private const LARGEST = 1 << 20;

    /** Magic of a leaf, behind two numbers of its neighbours => bytes of its head, and where the number of its entries stands. */
    private const LEAVES = [0xFBEE => [32, 12], 0x3BEE => [80, 56]];

    /** @return array<string, string> as TarEntry::$extended has them */
    public static function of(XfsInode $inode, XfsGeometry $geometry): array
    {
        if ($inode->attributesFork === '') {
            return [];
        }
        if ($inode->attributesFormat === XfsInode::LOCAL) {
            return self::short($inode->attributesFork);
        }
        $map = XfsMap::ofAttributes($geometry, $inode);
        $found = [];
        $most = intdiv(self::LARGEST, $geometry->blockSize);
        foreach ($map->extents() as [$first, , $count]) {
            for ($block = $first; $block < min($first + $count, $most); $block++) {
                $found += self::leaf($map->read($block * $geometry->blockSize, $geometry->blockSize));
            }
        }

        return $found;
    }

    /** @return array<string, string> */
    private static function short(string $bytes): array
    {
        $head = strlen($bytes) >= 4 ? unpack('nsize/Ccount', $bytes) : ['size' => 0, 'count' => 0];
        $found = [];
        for ($at = 4, $count = $head['count'] ?? 0; $count > 0 && $at + 3 <= strlen($bytes); $count--) {
            [$name, $value, $flags] = [ord($bytes[$at]), ord($bytes[$at + 1]), ord($bytes[$at + 2])];
            if ($at + 3 + $name + $value <= strlen($bytes)) {
                $found += self::named($flags, substr($bytes, $at + 3, $name), substr($bytes, $at + 3 + $name, $value));
            }
            $at += 3 + $name + $value;
        }

        return $found;
    }

    /** @return array<string, string> none of a block that is no leaf: those that lead to leaves, or hold large values */
    private static function leaf(string $bytes): array
    {
        [$head, $counts] = self::LEAVES[unpack('n', $bytes, 8)[1] ?? 0] ?? [0, 0];
        $count = $head === 0 ? 0 : unpack('n', $bytes, $counts)[1] ?? 0;
        $found = [];
        for ($i = 0; $i < $count && $head + 8 * $i + 8 <= strlen($bytes); $i++) {
            ['at' => $at, 'flags' => $flags] = unpack('x4/nat/Cflags', $bytes, $head + 8 * $i) ?: ['at' => 0, 'flags' => 0];
            $sizes = ($flags & self::HERE) !== 0 && $at + 3 <= strlen($bytes) ? unpack('nvalue/Cname', $bytes, $at) : false;
            if ($sizes !== false && $at + 3 + $sizes['name'] + $sizes['value'] <= strlen($bytes)) {
                $name = substr($bytes, $at + 3, $sizes['name']);
                $found += self::named($flags & ~self::HERE, $name, substr($bytes, $at + 3 + $sizes['name'], $sizes['value']));
            }
        }

        return $found;
    }

    /** @return array<string, string> it alone; none if it is not for anybody to see */
    private static function named(int $flags, string $name, string $value): array
    {
        $of = self::NAMED[$flags] ?? null;
        if ($of === self::TRUSTED && isset(self::LISTS[$name])) {
            $list = PosixAccessList::ofXfs($value);

            return $list === null ? [] : [self::LISTS[$name] => $list];
        }

        return $of === null ? [] : [$of.$name => $value];
    }
}
