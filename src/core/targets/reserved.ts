/**
 * Words that shader languages keep for themselves, whole: identifiers that are made of artists' words avoid them in all
 * languages at once. Sources: "The OpenGL ES Shading Language", version 3.00, 3.8 and 8, and the keywords that 3.10 and
 * 3.20 add (Khronos); "WebGPU Shading Language", 16.1 and 16.2 (W3C).
 */
const split = (text: string): string[] => text.trim().split(/\s+/);

/** GLSL ES 3.00, 3.8: keywords, and words reserved for later. */
const GLSL = split(`
  attribute const uniform varying layout centroid flat smooth break continue do for while switch case default if else in out inout
  float int void bool true false invariant discard return mat2 mat3 mat4 mat2x2 mat2x3 mat2x4 mat3x2 mat3x3 mat3x4 mat4x2 mat4x3 mat4x4
  vec2 vec3 vec4 ivec2 ivec3 ivec4 bvec2 bvec3 bvec4 uint uvec2 uvec3 uvec4 lowp mediump highp precision struct
  sampler2D sampler3D samplerCube sampler2DShadow samplerCubeShadow sampler2DArray sampler2DArrayShadow
  isampler2D isampler3D isamplerCube isampler2DArray usampler2D usampler3D usamplerCube usampler2DArray
  coherent volatile restrict readonly writeonly resource atomic_uint noperspective patch sample subroutine common partition active
  asm class union enum typedef template this goto inline noinline public static extern external interface long short double half
  fixed unsigned superp input output hvec2 hvec3 hvec4 dvec2 dvec3 dvec4 fvec2 fvec3 fvec4 sampler3DRect filter
  image1D image2D image3D imageCube iimage1D iimage2D iimage3D iimageCube uimage1D uimage2D uimage3D uimageCube
  image1DArray image2DArray iimage1DArray iimage2DArray uimage1DArray uimage2DArray image1DShadow image2DShadow
  image1DArrayShadow image2DArrayShadow imageBuffer iimageBuffer uimageBuffer sampler1D sampler1DShadow sampler1DArray
  sampler1DArrayShadow isampler1D isampler1DArray usampler1D usampler1DArray sampler2DRect sampler2DRectShadow isampler2DRect
  usampler2DRect samplerBuffer isamplerBuffer usamplerBuffer sampler2DMS isampler2DMS usampler2DMS sampler2DMSArray
  isampler2DMSArray usampler2DMSArray sizeof cast namespace using`);

/** What later versions of GLSL ES add; compilers of 3.00 may know them already. */
const GLSL_LATER = split(`
  shared buffer precise samplerCubeArray samplerCubeArrayShadow isamplerCubeArray usamplerCubeArray imageCubeArray iimageCubeArray
  uimageCubeArray image2DMS image2DMSArray iimage2DMS uimage2DMS`);

/** GLSL ES 3.00, 8: functions that are there. A variable of the name would hide one that is needed. */
const GLSL_FUNCTIONS = split(`
  radians degrees sin cos tan asin acos atan sinh cosh tanh asinh acosh atanh pow exp log exp2 log2 sqrt inversesqrt
  abs sign floor trunc round roundEven ceil fract mod modf min max clamp mix step smoothstep isnan isinf
  floatBitsToInt floatBitsToUint intBitsToFloat uintBitsToFloat packSnorm2x16 unpackSnorm2x16 packUnorm2x16 unpackUnorm2x16
  packHalf2x16 unpackHalf2x16 length distance dot cross normalize faceforward reflect refract matrixCompMult outerProduct
  transpose determinant inverse lessThan lessThanEqual greaterThan greaterThanEqual equal notEqual any all not
  textureSize texture textureProj textureLod textureOffset texelFetch texelFetchOffset textureProjOffset textureLodOffset
  textureProjLod textureProjLodOffset textureGrad textureGradOffset textureProjGrad textureProjGradOffset dFdx dFdy fwidth`);

/** WGSL: keywords, and words reserved for later. */
const WGSL = split(`
  alias break case const const_assert continue continuing default diagnostic discard else enable false fn for if let loop override
  requires return struct switch true var while
  NULL Self abstract active alignas alignof as asm asm_fragment async attribute auto await become cast catch class co_await
  co_return co_yield coherent column_major common compile compile_fragment concept const_cast consteval constexpr constinit crate
  debugger decltype delete demote demote_to_helper do dynamic_cast enum explicit export extends extern external fallthrough filter
  final finally friend from fxgroup get goto groupshared highp impl implements import inline instanceof interface layout lowp
  macro macro_rules match mediump meta mod module move mut mutable namespace new nil noexcept noinline nointerpolation
  non_coherent noncoherent noperspective null nullptr of operator package packoffset partition pass patch pixelfragment precise
  precision premerge priv protected pub public readonly ref regardless register reinterpret_cast require resource restrict self
  set shared sizeof smooth snorm static static_assert static_cast std subroutine super target template this thread_local throw
  trait try type typedef typeid typename typeof union unless unorm unsafe unsized use using varying virtual volatile wgsl where
  with writeonly yield`);

/** WGSL, 6 and 17: types and functions that are there. */
const WGSL_FUNCTIONS = split(`
  bool f16 f32 i32 u32 array atomic ptr vec2f vec2h vec2i vec2u vec3f vec3h vec3i vec3u vec4f vec4h vec4i vec4u
  mat2x2f mat2x3f mat2x4f mat3x2f mat3x3f mat3x4f mat4x2f mat4x3f mat4x4f mat2x2h mat2x3h mat2x4h mat3x2h mat3x3h mat3x4h mat4x2h
  mat4x3h mat4x4h sampler sampler_comparison texture_1d texture_2d texture_2d_array texture_3d texture_cube texture_cube_array
  texture_multisampled_2d texture_depth_multisampled_2d texture_external texture_storage_1d texture_storage_2d
  texture_storage_2d_array texture_storage_3d texture_depth_2d texture_depth_2d_array texture_depth_cube
  texture_depth_cube_array bitcast select arrayLength atan2 countLeadingZeros countOneBits countTrailingZeros
  dot4U8Packed dot4I8Packed extractBits faceForward firstLeadingBit firstTrailingBit fma frexp insertBits inverseSqrt ldexp
  quantizeToF16 reverseBits saturate dpdx dpdxCoarse dpdxFine dpdy dpdyCoarse dpdyFine fwidthCoarse fwidthFine
  textureDimensions textureGather textureGatherCompare textureLoad textureNumLayers textureNumLevels textureNumSamples
  textureSample textureSampleBias textureSampleCompare textureSampleCompareLevel textureSampleGrad textureSampleLevel
  textureSampleBaseClampToEdge textureStore atomicLoad atomicStore atomicAdd atomicSub atomicMax atomicMin atomicAnd atomicOr
  atomicXor atomicExchange atomicCompareExchangeWeak pack4x8snorm pack4x8unorm pack2x16snorm pack2x16unorm pack2x16float
  unpack4x8snorm unpack4x8unorm unpack2x16snorm unpack2x16unorm unpack2x16float storageBarrier textureBarrier
  workgroupBarrier workgroupUniformLoad subgroupAdd subgroupAll subgroupAny subgroupBallot subgroupBroadcast quadBroadcast quadSwapX
  quadSwapY quadSwapDiagonal`);

export const RESERVED_WORDS: ReadonlySet<string> = new Set([
  ...GLSL,
  ...GLSL_LATER,
  ...GLSL_FUNCTIONS,
  ...WGSL,
  ...WGSL_FUNCTIONS,
]);

/** Lines of a text as lines of comment: nothing of it ends the comment, whatever its author wrote. */
export function commentOf(text: string): string {
  return text
    .split(/\r\n|[\n\r\v\f\u0085\u2028\u2029]/)
    .map((line) =>
      // A stroke backwards at the end of a line would join the next to it.
      `// ${line.replace(/\p{Cc}/gu, ' ').replace(/[\\\s]+$/, '')}`.trimEnd(),
    )
    .join('\n');
}
