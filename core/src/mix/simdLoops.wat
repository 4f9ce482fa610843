;; The inner loops of the mix, two frames in each vector: what mixLoops.ts says in plain numbers, operation for operation,
;; so that both give the same to the last bit. Made into simdCode.ts by scripts/wasm.mjs.
(module
  (import "core" "memory" (memory 1))

  ;; left[k] += in[k] * (gl + sl * (k + offset)), right[k] the same with its own: for k in [from, to).
  ;; in, left and right are addresses; in of f32, the sums of f64.
  (func (export "addMono")
    (param $in i32) (param $left i32) (param $right i32)
    (param $gl f64) (param $sl f64) (param $gr f64) (param $sr f64)
    (param $offset i32) (param $from i32) (param $to i32)
    (local $k i32) (local $fours i32) (local $x v128) (local $d v128) (local $e v128) (local $lo v128) (local $hi v128)
    (local $gl2 v128) (local $sl2 v128) (local $gr2 v128) (local $sr2 v128)
    (local.set $k (local.get $from))
    (local.set $fours (i32.sub (local.get $to) (i32.const 3)))
    (local.set $in (i32.add (local.get $in) (i32.shl (local.get $from) (i32.const 2))))
    (local.set $left (i32.add (local.get $left) (i32.shl (local.get $from) (i32.const 3))))
    (local.set $right (i32.add (local.get $right) (i32.shl (local.get $from) (i32.const 3))))
    (local.set $gl2 (f64x2.splat (local.get $gl)))
    (local.set $sl2 (f64x2.splat (local.get $sl)))
    (local.set $gr2 (f64x2.splat (local.get $gr)))
    (local.set $sr2 (f64x2.splat (local.get $sr)))
    (local.set $d
      (f64x2.add
        (f64x2.splat (f64.convert_i32_s (i32.add (local.get $from) (local.get $offset))))
        (v128.const f64x2 0 1)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_s (local.get $k) (local.get $fours)))
        (local.set $e (f64x2.add (local.get $d) (v128.const f64x2 2 2)))
        (local.set $x (v128.load (local.get $in)))
        (local.set $lo (f64x2.promote_low_f32x4 (local.get $x)))
        (local.set $hi
          (f64x2.promote_low_f32x4
            (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $x) (local.get $x))))
        (v128.store (local.get $left)
          (f64x2.add (v128.load (local.get $left))
            (f64x2.mul (local.get $lo) (f64x2.add (local.get $gl2) (f64x2.mul (local.get $sl2) (local.get $d))))))
        (v128.store offset=16 (local.get $left)
          (f64x2.add (v128.load offset=16 (local.get $left))
            (f64x2.mul (local.get $hi) (f64x2.add (local.get $gl2) (f64x2.mul (local.get $sl2) (local.get $e))))))
        (v128.store (local.get $right)
          (f64x2.add (v128.load (local.get $right))
            (f64x2.mul (local.get $lo) (f64x2.add (local.get $gr2) (f64x2.mul (local.get $sr2) (local.get $d))))))
        (v128.store offset=16 (local.get $right)
          (f64x2.add (v128.load offset=16 (local.get $right))
            (f64x2.mul (local.get $hi) (f64x2.add (local.get $gr2) (f64x2.mul (local.get $sr2) (local.get $e))))))
        (local.set $d (f64x2.add (local.get $d) (v128.const f64x2 4 4)))
        (local.set $k (i32.add (local.get $k) (i32.const 4)))
        (local.set $in (i32.add (local.get $in) (i32.const 16)))
        (local.set $left (i32.add (local.get $left) (i32.const 32)))
        (local.set $right (i32.add (local.get $right) (i32.const 32)))
        (br $next)))
    ;; What is left of less than four.
    (call $ones
      (local.get $in) (local.get $in) (local.get $left) (local.get $right)
      (local.get $gl) (local.get $sl) (local.get $gr) (local.get $sr)
      (local.get $offset) (local.get $k) (local.get $to)))

  ;; The same with an input for each side.
  (func (export "addStereo")
    (param $inLeft i32) (param $inRight i32) (param $left i32) (param $right i32)
    (param $gl f64) (param $sl f64) (param $gr f64) (param $sr f64)
    (param $offset i32) (param $from i32) (param $to i32)
    (local $k i32) (local $fours i32)
    (local $d v128) (local $e v128) (local $x v128) (local $y v128)
    (local $gl2 v128) (local $sl2 v128) (local $gr2 v128) (local $sr2 v128)
    (local.set $k (local.get $from))
    (local.set $fours (i32.sub (local.get $to) (i32.const 3)))
    (local.set $inLeft (i32.add (local.get $inLeft) (i32.shl (local.get $from) (i32.const 2))))
    (local.set $inRight (i32.add (local.get $inRight) (i32.shl (local.get $from) (i32.const 2))))
    (local.set $left (i32.add (local.get $left) (i32.shl (local.get $from) (i32.const 3))))
    (local.set $right (i32.add (local.get $right) (i32.shl (local.get $from) (i32.const 3))))
    (local.set $gl2 (f64x2.splat (local.get $gl)))
    (local.set $sl2 (f64x2.splat (local.get $sl)))
    (local.set $gr2 (f64x2.splat (local.get $gr)))
    (local.set $sr2 (f64x2.splat (local.get $sr)))
    (local.set $d
      (f64x2.add
        (f64x2.splat (f64.convert_i32_s (i32.add (local.get $from) (local.get $offset))))
        (v128.const f64x2 0 1)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_s (local.get $k) (local.get $fours)))
        (local.set $e (f64x2.add (local.get $d) (v128.const f64x2 2 2)))
        (local.set $x (v128.load (local.get $inLeft)))
        (local.set $y (v128.load (local.get $inRight)))
        (v128.store (local.get $left)
          (f64x2.add (v128.load (local.get $left))
            (f64x2.mul (f64x2.promote_low_f32x4 (local.get $x))
              (f64x2.add (local.get $gl2) (f64x2.mul (local.get $sl2) (local.get $d))))))
        (v128.store offset=16 (local.get $left)
          (f64x2.add (v128.load offset=16 (local.get $left))
            (f64x2.mul
              (f64x2.promote_low_f32x4
                (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $x) (local.get $x)))
              (f64x2.add (local.get $gl2) (f64x2.mul (local.get $sl2) (local.get $e))))))
        (v128.store (local.get $right)
          (f64x2.add (v128.load (local.get $right))
            (f64x2.mul (f64x2.promote_low_f32x4 (local.get $y))
              (f64x2.add (local.get $gr2) (f64x2.mul (local.get $sr2) (local.get $d))))))
        (v128.store offset=16 (local.get $right)
          (f64x2.add (v128.load offset=16 (local.get $right))
            (f64x2.mul
              (f64x2.promote_low_f32x4
                (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $y) (local.get $y)))
              (f64x2.add (local.get $gr2) (f64x2.mul (local.get $sr2) (local.get $e))))))
        (local.set $d (f64x2.add (local.get $d) (v128.const f64x2 4 4)))
        (local.set $k (i32.add (local.get $k) (i32.const 4)))
        (local.set $inLeft (i32.add (local.get $inLeft) (i32.const 16)))
        (local.set $inRight (i32.add (local.get $inRight) (i32.const 16)))
        (local.set $left (i32.add (local.get $left) (i32.const 32)))
        (local.set $right (i32.add (local.get $right) (i32.const 32)))
        (br $next)))
    (call $ones
      (local.get $inLeft) (local.get $inRight) (local.get $left) (local.get $right)
      (local.get $gl) (local.get $sl) (local.get $gr) (local.get $sr)
      (local.get $offset) (local.get $k) (local.get $to)))

  ;; The same one by one, from where the addresses stand.
  (func $ones
    (param $inLeft i32) (param $inRight i32) (param $left i32) (param $right i32)
    (param $gl f64) (param $sl f64) (param $gr f64) (param $sr f64)
    (param $offset i32) (param $k i32) (param $to i32)
    (local $d f64)
    (block $end
      (loop $one
        (br_if $end (i32.ge_s (local.get $k) (local.get $to)))
        (local.set $d (f64.convert_i32_s (i32.add (local.get $k) (local.get $offset))))
        (f64.store (local.get $left)
          (f64.add (f64.load (local.get $left))
            (f64.mul (f64.promote_f32 (f32.load (local.get $inLeft)))
              (f64.add (local.get $gl) (f64.mul (local.get $sl) (local.get $d))))))
        (f64.store (local.get $right)
          (f64.add (f64.load (local.get $right))
            (f64.mul (f64.promote_f32 (f32.load (local.get $inRight)))
              (f64.add (local.get $gr) (f64.mul (local.get $sr) (local.get $d))))))
        (local.set $k (i32.add (local.get $k) (i32.const 1)))
        (local.set $inLeft (i32.add (local.get $inLeft) (i32.const 4)))
        (local.set $inRight (i32.add (local.get $inRight) (i32.const 4)))
        (local.set $left (i32.add (local.get $left) (i32.const 8)))
        (local.set $right (i32.add (local.get $right) (i32.const 8)))
        (br $one))))

  ;; The highest magnitude of in[k] * (g + s * (k + offset)) for k in [from, to).
  (func (export "peak")
    (param $in i32) (param $g f64) (param $s f64) (param $offset i32) (param $from i32) (param $to i32) (result f64)
    (local $k i32) (local $pairs i32) (local $d v128) (local $g2 v128) (local $s2 v128) (local $most v128) (local $peak f64)
    (local.set $k (local.get $from))
    (local.set $pairs (i32.sub (local.get $to) (i32.const 1)))
    (local.set $in (i32.add (local.get $in) (i32.shl (local.get $from) (i32.const 2))))
    (local.set $g2 (f64x2.splat (local.get $g)))
    (local.set $s2 (f64x2.splat (local.get $s)))
    (local.set $d
      (f64x2.add
        (f64x2.splat (f64.convert_i32_s (i32.add (local.get $from) (local.get $offset))))
        (v128.const f64x2 0 1)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_s (local.get $k) (local.get $pairs)))
        (local.set $most
          (f64x2.pmax (local.get $most)
            (f64x2.abs
              (f64x2.mul (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $in)))
                (f64x2.add (local.get $g2) (f64x2.mul (local.get $s2) (local.get $d)))))))
        (local.set $d (f64x2.add (local.get $d) (v128.const f64x2 2 2)))
        (local.set $k (i32.add (local.get $k) (i32.const 2)))
        (local.set $in (i32.add (local.get $in) (i32.const 8)))
        (br $next)))
    (local.set $peak
      (f64.max (f64x2.extract_lane 0 (local.get $most)) (f64x2.extract_lane 1 (local.get $most))))
    (if (i32.lt_s (local.get $k) (local.get $to))
      (then
        (local.set $peak
          (f64.max (local.get $peak)
            (f64.abs
              (f64.mul (f64.promote_f32 (f32.load (local.get $in)))
                (f64.add (local.get $g)
                  (f64.mul (local.get $s) (f64.convert_i32_s (i32.add (local.get $k) (local.get $offset)))))))))))
    (local.get $peak))
)
